import type { Canvas } from './canvas.ts';
import type { DeclaredTransfer } from './colourNames.ts';
import { dithererOf } from './dither.ts';
import { isFloat, makeSamples, maxCode, type Image } from './image.ts';
import { heldBetween, outsideKind, type OutsideKind } from './outside.ts';
import type { Picture } from './picture.ts';
import { plainQuantiser, quantiser, type Quantiser } from './quantise.ts';
import { note, type PixelCounts, type Recipe } from './recipe.ts';
import { quickly, transferBetween, type Quick } from './transfer.ts';

/** Float arithmetic leaves a 1 this near to 1; no more than that is called clipped. */
const rounding = 1e-6;

/** Where something is lost, if that is asked for: a byte a pixel of the result, filled in. */
export interface Marks {
  bits: Uint8Array;
}

/** Bits of a pixel's mark: what of it is lost. */
export const markBits = { low: 1, high: 2, notNumber: 4, alpha: 8 } as const;

/** The bit of each {@link outsideKind}. */
const bitOfKind = [0, markBits.low, markBits.high, markBits.notNumber, markBits.notNumber] as const;

/** Alpha, transfer and depth out of a canvas: what is done with its alpha, and what its colours are looked up in. */
export interface End {
  to: Recipe['to'];
  /** The canvas's own. */
  transfer: DeclaredTransfer;
  colours: number;
  /** Whether there is any alpha, it is written, and colours are multiplied or divided by it. */
  usesAlpha: boolean;
  keepsAlpha: boolean;
  multiplies: boolean;
  divides: boolean;
  channels: Image['channels'];
  /** From the canvas's light to what is stored. */
  curve: (value: number) => number;
  toColour: Quantiser;
  /** What the result holds: of values before the curve, after it where they are multiplied. */
  held: readonly [number, number];
  /** How far a value may be beyond that and is called held all the same. */
  slack: number;
  /** Absent where whole codes are rounded to, and for floats. */
  dither: { kind: Exclude<Picture['dither'], 'none'>; curve: Quick; max: number } | undefined;
}

/** Makes what ends a canvas, by its alpha and transfer; tables are kept. */
export function makeEnds({ picture, to }: Recipe): (canvas: Pick<Canvas, 'alpha' | 'transfer' | 'colours'>) => End {
  const quantisers = new Map<DeclaredTransfer, Pick<End, 'curve' | 'toColour' | 'held'>>();
  const dithered = new Map<DeclaredTransfer, Quick>();
  const heldAlpha = heldBetween('linear', 'linear', to.sample);
  const max = maxCode(to.sample);
  return ({ alpha, transfer, colours }) => {
    let known = quantisers.get(transfer);
    if (!known) {
      const curve = transferBetween(transfer, to.transfer);
      const held = heldBetween(transfer, to.transfer, to.sample);
      quantisers.set(transfer, (known = { curve, toColour: quantiser(to.sample, curve, held), held }));
    }
    let dither: End['dither'];
    if (picture.dither !== 'none' && max !== undefined) {
      // Between two codes a dither decides: the last bits of a curve do not.
      let curve = dithered.get(transfer);
      if (!curve) dithered.set(transfer, (curve = quickly(known.curve)));
      dither = { kind: picture.dither, curve, max };
    }
    const usesAlpha = alpha !== 'none';
    const keepsAlpha = usesAlpha && to.alpha !== 'none';
    const multiplies = usesAlpha && to.alpha !== 'straight';
    return {
      to,
      transfer,
      colours,
      usesAlpha,
      keepsAlpha,
      multiplies,
      divides: alpha === 'premultiplied',
      channels: (to.alpha === 'matte' ? 1 : colours + (keepsAlpha ? 1 : 0)) as Image['channels'],
      ...known,
      held: multiplies ? heldAlpha : known.held,
      slack: isFloat(to.sample) ? 0 : rounding,
      dither,
    };
  };
}

const mark = (marks: Marks | undefined, at: number, bits: number): void => {
  if (marks) marks.bits[at]! |= bits;
};

/** A canvas as it is stored. */
export function finish(
  canvas: Canvas,
  end: End,
  counts: PixelCounts,
  marks: Marks | undefined,
  room: typeof makeSamples,
): Image {
  const { width, height, data: source, stride } = canvas;
  const { to, colours, usesAlpha, keepsAlpha, multiplies, divides, channels } = end;
  const toAlpha = plainQuantiser(to.sample);
  if (to.alpha === 'matte') return matteOf(canvas, to.sample, toAlpha);
  const data = room(to.sample, width * height * channels);
  const store = makeStore(end, width, (kind, channel, pixel) => {
    note(counts, kind, channel);
    mark(marks, pixel, bitOfKind[kind]);
  });

  for (let pixel = 0, at = 0, out = 0; pixel < width * height; pixel += 1, at += stride, out += channels) {
    const alpha = source[at + colours]!;
    const isClear = divides && !(alpha > 0);
    const share = divides && !isClear ? alpha : 1;
    let glows = false;
    for (let channel = 0; channel < colours; channel += 1) {
      const stored = source[at + channel]! / share;
      glows ||= stored > 0;
      data[out + channel] = store(stored, alpha, isClear, channel, pixel);
    }
    if (glows && isClear && !multiplies) counts.glow += 1;
    if (keepsAlpha) data[out + colours] = toAlpha(alpha);
    else if (usesAlpha && alpha !== 1) {
      counts.alphaDropped += 1;
      mark(marks, pixel, markBits.alpha);
    }
  }
  return { width, height, channels, sample: to.sample, data };
}

/** Gives what is stored of a colour; what the result cannot hold is told. Called for the pixels in order. */
function makeStore(end: End, width: number, tell: (kind: OutsideKind, channel: number, pixel: number) => void) {
  const { to, multiplies, toColour, held, slack } = end;
  const toAlpha = plainQuantiser(to.sample);
  const matte = to.matte ?? [0, 0, 0];
  const curve = end.dither?.curve ?? end.curve;
  const max = end.dither?.max ?? 1;
  const dither = end.dither && dithererOf(end.dither.kind, width, max);
  const [least, most] = [held[0] - slack, held[1] + slack];
  return (stored: number, alpha: number, isClear: boolean, channel: number, pixel: number): number => {
    const value = multiplies ? curve(stored) * (isClear ? 1 : alpha) + (1 - alpha) * matte[channel]! : stored;
    if (!(value >= least && value <= most)) tell(outsideKind(value, held), channel, pixel);
    if (!dither) return multiplies ? toAlpha(value) : toColour(value);
    const encoded = multiplies ? value : curve(stored);
    const bounded = encoded > 0 ? Math.min(1, encoded) : 0;
    return dither(bounded * max, channel, pixel % width, Math.floor(pixel / width));
  };
}

/** Alpha alone, as grey; 1 throughout where the picture has none. */
function matteOf(
  { width, height, stride, data: source }: Canvas,
  sample: Image['sample'],
  toAlpha: (value: number) => number,
): Image {
  const data = makeSamples(sample, width * height);
  for (let at = 0; at < data.length; at += 1) data[at] = toAlpha(source[at * stride + stride - 1]!);
  return { width, height, channels: 1, sample, data };
}
