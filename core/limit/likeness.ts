import { maxCode, type Image } from '../pixels/image.ts';
import type { Size } from '../pixels/picture.ts';
import { resample, type ResamplePass } from '../pixels/resample.ts';
import { similarityOf } from '../pixels/similarity.ts';

/** What clear pixels are seen on: neither dark nor light, so that edges count whatever their colour. */
const ground = 0.5;

/** A picture of integers as it is seen on grey, in floats of 0 to 1, at a size. */
function seen(image: Image, size: Size, pass: ResamplePass | undefined): Image {
  const { width, height, channels, data, sample } = image;
  const most = maxCode(sample) ?? 1;
  const colours = channels < 3 ? 1 : 3;
  const plain = new Float32Array(width * height * 3);
  for (let from = 0, to = 0; from < data.length; from += channels, to += 3) {
    const alpha = channels % 2 === 0 ? data[from + colours]! / most : 1;
    for (let channel = 0; channel < 3; channel += 1) {
      const value = data[from + (colours === 1 ? 0 : channel)]! / most;
      plain[to + channel] = value * alpha + ground * (1 - alpha);
    }
  }
  const floats = { width, height, stride: 3, data: plain };
  const { data: sized } = resample(floats, size, 'bicubic', pass);
  return { ...size, channels: 3, sample: 'f32', data: sized };
}

/**
 * SSIM of what is shown against what is wanted, both of straight alpha and seen on grey, at the wanted size: a smaller picture is
 * enlarged to it as a page would. @param pass @param weigh compiled ones, where there are any
 */
export function likenessOf(wanted: Image, shown: Image, pass?: ResamplePass, weigh = similarityOf): number {
  const size = { width: wanted.width, height: wanted.height };
  return weigh(seen(wanted, size, pass), seen(shown, size, pass))!.ssim;
}
