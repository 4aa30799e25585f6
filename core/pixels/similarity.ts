import { halfTable } from './half.ts';
import { maxCode, type Image } from './image.ts';
import { lumaOf } from './luma.ts';

/** How near a lossy picture comes to what was meant. */
export interface Similarity {
  /** Peak signal to noise over all samples, dB; null where nothing differs. */
  psnr: number | null;
  /** Structural similarity of luma, 1 where nothing differs. */
  ssim: number;
}

/** Side of the windows in which structure is compared, in pixels. */
const side = 8;

/** Luma of each pixel, 0 to 1 for integers. */
function lumaPlane({ data, channels, sample, width, height }: Image): Float32Array {
  const most = maxCode(sample) ?? 1;
  const values = sample === 'f16' ? halfTable() : undefined;
  const value = (at: number) => (values ? values[data[at]!]! : data[at]! / most);
  const plane = new Float32Array(width * height);
  for (let pixel = 0, at = 0; pixel < plane.length; pixel += 1, at += channels)
    plane[pixel] = channels < 3 ? value(at) : lumaOf(value(at), value(at + 1), value(at + 2));
  return plane;
}

/**
 * Compares two pictures of one shape: PSNR over all samples of integer pictures, and SSIM (Wang, Bovik, Sheikh and Simoncelli
 * 2004, equation 13) over luma, averaged over windows of 8 x 8 pixels side by side, each pixel weighing the same, K1 = 0.01 and
 * K2 = 0.03. Undefined where shapes differ.
 */
export function similarityOf(a: Image, b: Image): Similarity | undefined {
  if (a.width !== b.width || a.height !== b.height || a.channels !== b.channels || a.sample !== b.sample)
    return undefined;
  const most = maxCode(a.sample) ?? 1;
  const values = a.sample === 'f16' ? halfTable() : undefined;
  let error = 0;
  for (let at = 0; at < a.data.length; at += 1) {
    const apart = values ? values[a.data[at]!]! - values[b.data[at]!]! : a.data[at]! - b.data[at]!;
    error += apart * apart;
  }
  const [x, y] = [lumaPlane(a), lumaPlane(b)];
  const [c1, c2] = [0.01 ** 2, 0.03 ** 2];
  let sum = 0;
  let windows = 0;
  for (let top = 0; top < a.height; top += side) {
    const bottom = Math.min(a.height, top + side);
    for (let left = 0; left < a.width; left += side) {
      const right = Math.min(a.width, left + side);
      let [sx, sy, sxx, syy, sxy] = [0, 0, 0, 0, 0];
      for (let row = top; row < bottom; row += 1) {
        for (let at = row * a.width + left; at < row * a.width + right; at += 1) {
          const [p, q] = [x[at]!, y[at]!];
          sx += p;
          sy += q;
          sxx += p * p;
          syy += q * q;
          sxy += p * q;
        }
      }
      const count = (bottom - top) * (right - left);
      const [mx, my] = [sx / count, sy / count];
      const [vx, vy, both] = [sxx / count - mx * mx, syy / count - my * my, sxy / count - mx * my];
      sum += ((2 * mx * my + c1) * (2 * both + c2)) / ((mx * mx + my * my + c1) * (vx + vy + c2));
      windows += 1;
    }
  }
  return {
    psnr: error === 0 ? null : -10 * Math.log10(error / a.data.length / most ** 2),
    ssim: Math.min(1, sum / windows),
  };
}
