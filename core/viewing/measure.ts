import { z } from 'zod';
import { inColours, takenCanvas, toColours, toPremultiplied, type Canvas } from '../pixels/canvas.ts';
import { maxCode, type Image } from '../pixels/image.ts';
import { lumaOf } from '../pixels/luma.ts';
import { channelNameSchema } from './samples.ts';
import { ssimOf, type Plane } from './ssim.ts';
import type { Taken } from './view.ts';

const count = z.int().min(0);
const error = z.number().min(0);

/** How two pictures of one size differ, in values: 0 to 1 is the full range. */
export const comparisonSchema = z.object({
  width: z.int(),
  height: z.int(),
  /** What both were brought to for it: the curve of the second, and how colour relates to alpha. */
  transfer: z.string(),
  alpha: z.enum(['none', 'straight', 'premultiplied']),
  channels: z.array(z.object({ name: channelNameSchema, most: error, mean: error, squares: error })),
  /** Over all channels: the greatest error, where it is, and the mean one. */
  most: error,
  at: z.object({ x: count, y: count }).nullable(),
  mean: error,
  /** Peak signal-to-noise ratio over all channels, in decibels, the peak being 1; null where nothing differs. */
  psnr: z.number().nullable(),
  /** Structural similarity of the luma; null where a side is below 11 pixels. */
  ssim: z.number().nullable(),
  pixels: count,
  /** Pixels that differ at all, and by more than half a step of the coarser of both. */
  changed: count,
  beyondRounding: count,
  /** Value of a step of the coarser of both; null where both are floats. */
  step: z.number().nullable(),
  /** Samples that are no number in one of the two; they are not in the errors. */
  notNumbers: count,
});
export type Comparison = z.infer<typeof comparisonSchema>;

/** A picture and what it is taken to be. */
export interface Compared {
  image: Image;
  taken: Taken;
}

/** Brings the first to what the second is; both premultiplied where they differ in that. */
function alike(a: Canvas, b: Canvas): [Canvas, Canvas] {
  const colours = a.colours === 3 ? 3 : b.colours;
  const [left, right] = [inColours(a, colours), inColours(b, colours)];
  toColours(left, right);
  if (left.alpha !== right.alpha) {
    toPremultiplied(left);
    toPremultiplied(right);
  }
  return [left, right];
}

/** The coarser of two sample formats as the value of a step; null for floats. */
function coarserStep(a: Image, b: Image): number | null {
  const codes = [maxCode(a.sample), maxCode(b.sample)].filter((max) => max !== undefined);
  return codes.length === 0 ? null : 1 / Math.min(...codes);
}

/**
 * Compares two pictures of one size sample by sample, the first brought to the curve and primaries of the second.
 * @returns undefined where their sizes differ
 */
export function comparePictures(a: Compared, b: Compared): Comparison | undefined {
  if (a.image.width !== b.image.width || a.image.height !== b.image.height) return undefined;
  const [left, right] = alike(takenCanvas(a.image, a.taken), takenCanvas(b.image, b.taken));
  const { width, height, stride, colours } = left;
  const hasAlpha = left.alpha !== 'none' || right.alpha !== 'none';
  const step = coarserStep(a.image, b.image);
  const used = hasAlpha ? stride : colours;
  // Beyond half a step, and what 32-bit floats make of it.
  const rounding = step === null ? 0 : step / 2 + 1e-6;
  const sums = Array.from({ length: used }, () => ({ most: 0, sum: 0, squares: 0 }));
  let [changed, beyond, notNumbers, most, at] = [0, 0, 0, 0, -1];
  for (let pixel = 0, from = 0; pixel < width * height; pixel += 1, from += stride) {
    let apart = 0;
    for (let channel = 0; channel < used; channel += 1) {
      const one = left.data[from + channel]!;
      const other = right.data[from + channel]!;
      if (one === other) continue;
      const off = Math.abs(one - other);
      if (!Number.isFinite(off)) {
        if (one !== one && other !== other) continue;
        notNumbers += 1;
        apart = Infinity;
        continue;
      }
      const sum = sums[channel]!;
      sum.sum += off;
      sum.squares += off * off;
      if (off > sum.most) sum.most = off;
      if (off > apart) apart = off;
      if (off > most) {
        most = off;
        at = pixel;
      }
    }
    if (apart > 0) changed += 1;
    if (apart > rounding) beyond += 1;
  }
  const pixels = width * height;
  const square = sums.reduce((total, { squares }) => total + squares, 0) / (pixels * used);
  const names = colours === 3 ? (['red', 'green', 'blue'] as const) : (['grey'] as const);
  return {
    width,
    height,
    transfer: right.transfer,
    alpha: right.alpha,
    channels: sums.map((one, channel) => ({
      name: names[channel] ?? 'alpha',
      most: one.most,
      mean: one.sum / pixels,
      squares: one.squares / pixels,
    })),
    most,
    at: at < 0 ? null : { x: at % width, y: Math.floor(at / width) },
    mean: sums.reduce((total, { sum }) => total + sum, 0) / (pixels * used),
    psnr: square === 0 ? null : -10 * Math.log10(square),
    ssim: ssimOf(lumaPlane(left), lumaPlane(right)),
    pixels,
    changed,
    beyondRounding: beyond,
    step,
    notNumbers,
  };
}

/** The luma of the values, kept to 0 to 1; what is no number is 0. */
function lumaPlane({ width, height, stride, colours, data }: Canvas): Plane {
  const luma = new Float32Array(width * height);
  for (let pixel = 0, at = 0; pixel < luma.length; pixel += 1, at += stride) {
    const value = colours === 3 ? lumaOf(data[at]!, data[at + 1]!, data[at + 2]!) : data[at]!;
    luma[pixel] = value > 0 ? Math.min(1, value) : 0;
  }
  return { width, height, data: luma };
}
