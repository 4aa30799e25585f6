import { halfTable, packView, showPacked, shownChannels, type Looking, type View } from '@shale/core';
import { Card } from '../stage/card.ts';

/** What the graphics card shows, held against what core does. */
interface CardHeld {
  /** Whether there is one, and one that is no stand-in. */
  any: boolean;
  real: boolean;
  /** Pictures that were held against each other, and the farthest apart of two codes. */
  pictures: number;
  most: number;
  /** Of a picture that went through a bitmap, as it is drawn. */
  drawn: number;
}

/** A view with every half float that is finite in each of its channels, among alphas that are clear, thin and whole. */
function everyHalf(alpha: View['alpha'], shift: number): View {
  const [width, height] = [256, 256];
  const data = new Float32Array(width * height * 4);
  const warnings = new Uint8Array(width * height);
  for (let pixel = 0; pixel < warnings.length; pixel += 1) {
    for (let channel = 0; channel < 3; channel += 1) {
      const value = halfTable()[(pixel + channel * shift) % 65_536]!;
      data[pixel * 4 + channel] = Number.isFinite(value) ? value : 65_504;
    }
    data[pixel * 4 + 3] = alpha === 'none' ? 1 : [0, 1, 0.25, 0.0001, 1.5, -0.5, 0.75][pixel % 7]!;
    warnings[pixel] = pixel % 11 === 0 ? pixel % 32 : 0;
  }
  return { width, height, alpha, data, warnings };
}

const farthest = (a: ArrayLike<number>, b: ArrayLike<number>): number => {
  let most = a.length === b.length ? 0 : Infinity;
  for (let at = 0; at < a.length; at += 1) most = Math.max(most, Math.abs(a[at]! - b[at]!));
  return most;
};

/** Codes of a picture as a canvas has it, over black. */
function onCanvas(draw: (context: OffscreenCanvasRenderingContext2D) => void, width: number, height: number) {
  const context = new OffscreenCanvas(width, height).getContext('2d')!;
  context.fillRect(0, 0, width, height);
  draw(context);
  return context.getImageData(0, 0, width, height).data;
}

/** Holds one against the other, for every way of looking. */
export async function holdCard(): Promise<CardHeld> {
  const card = Card.open(() => true);
  const held: CardHeld = { any: card !== undefined, real: Card.open() !== undefined, pictures: 0, most: 0, drawn: 0 };
  if (!card) return held;
  for (const alpha of ['none', 'straight', 'premultiplied'] as const)
    for (const shift of [1, 7919]) {
      const bytes = packView(everyHalf(alpha, shift), 'half');
      for (const channel of shownChannels)
        for (const [exposure, gamma] of [
          [0, 1],
          [-3, 1],
          [2.5, 2.2],
        ] as const) {
          const looking: Looking = { channel, exposure, gamma, warns: channel === 'colour' && exposure !== 0 };
          const { pixels, width, height } = showPacked(bytes, looking);
          held.most = Math.max(held.most, farthest(card.read(bytes, looking)!, pixels));
          held.pictures += 1;
          if (channel !== 'colour' || exposure !== 0) continue;
          const bitmap = card.show(bytes, looking)!;
          const plain = await createImageBitmap(
            new ImageData(pixels as Uint8ClampedArray<ArrayBuffer>, width, height),
            {
              premultiplyAlpha: 'none',
            },
          );
          const [mine, theirs] = [bitmap, plain].map((one) =>
            onCanvas((context) => context.drawImage(one, 0, 0), width, height),
          );
          held.drawn = Math.max(held.drawn, farthest(mine!, theirs!));
        }
    }
  return held;
}
