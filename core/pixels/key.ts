import type { DeclaredTransfer } from './colourNames.ts';
import type { Canvas } from './canvas.ts';
import { lumaOf } from './luma.ts';
import type { Colour, Key } from './picture.ts';
import { quickly, transferBetween, type Quick } from './transfer.ts';

/** The colour differences of a pixel, each from -0.5 to 0.5 (ITU-R BT.709-6, item 3.3). */
function differences(red: number, green: number, blue: number): [cb: number, cr: number] {
  const luma = lumaOf(red, green, blue);
  return [(blue - luma) / 1.8556, (red - luma) / 1.5748];
}

/** Usual screens as sRGB values. */
export const screens: Record<'green' | 'blue', Colour> = { green: [0.1, 0.7, 0.2], blue: [0.1, 0.2, 0.7] };

/** The channel in which a screen is strongest. */
export const strongest = ([red, green, blue]: Colour): 0 | 1 | 2 =>
  red >= green && red >= blue ? 0 : green >= blue ? 1 : 2;

/**
 * Alpha of a pixel by its distance to the screen in the plane of colour differences, so that shade on the screen does not
 * count: 0 up to the tolerance, 1 from tolerance and softness on, and linear between.
 */
export function keyAlpha(pixel: Colour, { colour, tolerance, softness }: Key): number {
  // The differences are linear: that of two pixels' differences is the difference of the pixels.
  const [cb, cr] = differences(pixel[0] - colour[0], pixel[1] - colour[1], pixel[2] - colour[2]);
  const distance = Math.sqrt(cb * cb + cr * cr);
  if (distance <= tolerance) return 0;
  return distance >= tolerance + softness ? 1 : (distance - tolerance) / softness;
}

/** The screen's cast taken away: its channel is held down to the mean of the two others, by the share that is asked for. */
export function withoutSpill(pixel: Colour, { colour, spill }: Key): Colour {
  const channel = strongest(colour);
  const mean = (pixel[(channel + 1) % 3]! + pixel[(channel + 2) % 3]!) / 2;
  if (pixel[channel] <= mean) return pixel;
  const result: Colour = [pixel[0], pixel[1], pixel[2]];
  result[channel] = pixel[channel] - (pixel[channel] - mean) * spill;
  return result;
}

const sights = new Map<DeclaredTransfer, Quick>();

/** Values of a curve as sRGB values, near enough to tell colours apart. */
export function sightOf(transfer: DeclaredTransfer): Quick {
  let sight = sights.get(transfer);
  if (!sight) sights.set(transfer, (sight = quickly(transferBetween(transfer, 'srgb'))));
  return sight;
}

/**
 * Keys a straight or opaque picture, in place: alpha that there is is multiplied with the key's. Distances are those of sRGB
 * values, whatever the picture's curve, so that a tolerance means the same in every source.
 */
export function keyOut(canvas: Canvas, key: Key): void {
  const { data, stride } = canvas;
  const seen = sightOf(canvas.transfer);
  const pixel: Colour = [0, 0, 0];
  for (let at = 0; at < data.length; at += stride) {
    for (let channel = 0; channel < 3; channel += 1) pixel[channel] = seen(data[at + channel]!);
    data[at + 3]! *= keyAlpha(pixel, key);
    if (key.spill === 0) continue;
    for (let channel = 0; channel < 3; channel += 1) pixel[channel] = data[at + channel]!;
    const channel = strongest(key.colour);
    data[at + channel] = withoutSpill(pixel, key)[channel];
  }
  canvas.alpha = 'straight';
}
