import { filled } from './filled.ts';
import { halfTable } from './half.ts';
import { areAlike, maxCode, type Image } from './image.ts';
import { luma709 } from './luma.ts';

/** How near a lossy picture comes to what was meant. */
export interface Similarity {
  /** Peak signal to noise over all samples, dB; null where nothing differs. */
  psnr: number | null;
  /** Structural similarity of luma, 1 where nothing differs. */
  ssim: number;
}

/** Side of the windows in which structure is compared, in pixels. */
const side = 8;

/** Samples as numbers of one kind, for which loops are quick: half floats by their value, integers as they are. */
function numbersOf({ data, sample }: Image): Float32Array {
  if (sample !== 'f16') return new Float32Array(data);
  const values = halfTable();
  return filled(new Float32Array(data.length), (at) => values[data[at]!]!);
}

/** Luma of each pixel, 0 to 1 for integers. */
function lumaPlane({ channels, width, height }: Image, data: Float32Array, most: number): Float32Array {
  const plane = new Float32Array(width * height);
  const [red, green, blue] = channels < 3 ? [1, 0, 0] : luma709;
  for (let pixel = 0, at = 0; pixel < plane.length; pixel += 1, at += channels)
    plane[pixel] = (red * data[at]! + (channels < 3 ? 0 : green * data[at + 1]! + blue * data[at + 2]!)) / most;
  return plane;
}

/** The sum of the squares of all differences. */
function squaredError(a: Float32Array, b: Float32Array): number {
  let error = 0;
  for (let at = 0; at < a.length; at += 1) {
    const apart = a[at]! - b[at]!;
    error += apart * apart;
  }
  return error;
}

/** Structural similarity of two planes, averaged over windows. */
function structureOf(x: Float32Array, y: Float32Array, width: number, height: number): number {
  const c1 = 0.01 ** 2;
  const c2 = 0.03 ** 2;
  let sum = 0;
  for (let top = 0; top < height; top += side) {
    const bottom = Math.min(height, top + side);
    for (let left = 0; left < width; left += side) {
      const across = Math.min(side, width - left);
      let sx = 0;
      let sy = 0;
      let sxx = 0;
      let syy = 0;
      let sxy = 0;
      for (let row = top; row < bottom; row += 1) {
        const start = row * width + left;
        for (let at = start; at < start + across; at += 1) {
          const p = x[at]!;
          const q = y[at]!;
          sx += p;
          sy += q;
          sxx += p * p;
          syy += q * q;
          sxy += p * q;
        }
      }
      const count = (bottom - top) * across;
      const mx = sx / count;
      const my = sy / count;
      const spread = sxx / count - mx * mx + syy / count - my * my;
      const both = sxy / count - mx * my;
      sum += ((2 * mx * my + c1) * (2 * both + c2)) / ((mx * mx + my * my + c1) * (spread + c2));
    }
  }
  return Math.min(1, sum / (Math.ceil(width / side) * Math.ceil(height / side)));
}

/** The peak signal to noise of so many samples, dB; null where nothing differs. @param error the sum of the squares of all differences */
export const psnrOf = (error: number, samples: number, most: number): number | null =>
  error === 0 ? null : -10 * Math.log10(error / samples / most ** 2);

/**
 * Compares two pictures of one shape: PSNR over all samples of integer pictures, and SSIM (Wang, Bovik, Sheikh and Simoncelli
 * 2004, equation 13) over luma, averaged over windows of 8 x 8 pixels side by side, each pixel weighing the same, K1 = 0.01 and
 * K2 = 0.03. Undefined where shapes differ.
 */
export function similarityOf(a: Image, b: Image): Similarity | undefined {
  const { width, height, sample } = a;
  if (!areAlike(a, b)) return undefined;
  const most = maxCode(sample) ?? 1;
  const [first, second] = [numbersOf(a), numbersOf(b)];
  const error = squaredError(first, second);
  return {
    psnr: psnrOf(error, first.length, most),
    ssim: structureOf(lumaPlane(a, first, most), lumaPlane(b, second, most), width, height),
  };
}
