import type { Canvas } from './canvas.ts';
import type { Colour, Key } from './picture.ts';
import { transferBetween } from './transfer.ts';

/** Weights of red, green and blue in luma (ITU-R BT.709-6, item 3.2). */
export const luma709 = [0.2126, 0.7152, 0.0722] as const;

/** The colour differences of a pixel, each from -0.5 to 0.5 (ITU-R BT.709-6, item 3.3). */
function differences([red, green, blue]: Colour): [cb: number, cr: number] {
  const luma = luma709[0] * red + luma709[1] * green + luma709[2] * blue;
  return [(blue - luma) / 1.8556, (red - luma) / 1.5748];
}

/** Usual screens as sRGB values. */
export const screens: Record<'green' | 'blue', Colour> = { green: [0.1, 0.7, 0.2], blue: [0.1, 0.2, 0.7] };

/** The channel in which a screen is strongest. */
const strongest = (colour: Colour): 0 | 1 | 2 => colour.indexOf(Math.max(...colour)) as 0 | 1 | 2;

/**
 * Alpha of a pixel by its distance to the screen in the plane of colour differences, so that shade on the screen does not
 * count: 0 up to the tolerance, 1 from tolerance and softness on, and linear between.
 */
export function keyAlpha(pixel: Colour, { colour, tolerance, softness }: Key): number {
  const [cb, cr] = differences(pixel);
  const [screenCb, screenCr] = differences(colour);
  const distance = Math.hypot(cb - screenCb, cr - screenCr);
  if (distance <= tolerance) return 0;
  return distance >= tolerance + softness ? 1 : (distance - tolerance) / softness;
}

/** The screen's cast taken away: its channel is held down to the mean of the two others, by the share that is asked for. */
export function withoutSpill(pixel: Colour, { colour, spill }: Key): Colour {
  const channel = strongest(colour);
  const mean = (pixel[(channel + 1) % 3]! + pixel[(channel + 2) % 3]!) / 2;
  const result: Colour = [...pixel];
  if (pixel[channel] > mean) result[channel] = pixel[channel] - (pixel[channel] - mean) * spill;
  return result;
}

/**
 * Keys a straight or opaque picture, in place: alpha that there is is multiplied with the key's. Distances are those of sRGB
 * values, whatever the picture's curve, so that a tolerance means the same in every source.
 */
export function keyOut(canvas: Canvas, key: Key): void {
  const { data, stride } = canvas;
  const seen = transferBetween(canvas.transfer, 'srgb');
  for (let at = 0; at < data.length; at += stride) {
    const pixel: Colour = [data[at]!, data[at + 1]!, data[at + 2]!];
    const alpha = keyAlpha([seen(pixel[0]), seen(pixel[1]), seen(pixel[2])], key);
    data[at + 3]! *= alpha;
    if (key.spill > 0) data.set(withoutSpill(pixel, key), at);
  }
  canvas.alpha = 'straight';
}
