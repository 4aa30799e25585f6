import { LRUCache } from 'lru-cache';
import { sharp } from './libvips.ts';
import {
  hasAlphaChannel,
  makeConverter,
  untouched,
  type Converter,
  type Image,
  type Recipe,
  type Taken,
} from '@shale/core';
import { compiledKernel } from './kernels.ts';

/** How a preview is coded: lossless PNG or small WebP. */
export type PreviewFormat = 'webp' | 'png';

/**
 * A picture for looking at: 8-bit sRGB with straight alpha, no larger than asked. Scaling is done in premultiplied space.
 * @param width the most pixels across; the picture is never enlarged
 */
export async function makePreview(image: Image, taken: Taken, width: number, format: PreviewFormat): Promise<Buffer> {
  return codePreview(displayed(image, taken, 'straight'), width, format);
}

/** Converters that a process keeps, by what they convert: their tables take longer to make than a picture to convert. */
const converters = new LRUCache<string, Converter>({ max: 8 });

/** A picture in its own size as 8-bit sRGB, with straight alpha or laid over black. */
export function displayed(image: Image, taken: Taken, alpha: 'straight' | 'none'): Image {
  const from = { ...taken, alpha: hasAlphaChannel(image) ? taken.alpha : ('none' as const) };
  const isShown = image.sample === 'u8' && taken.transfer === 'srgb' && taken.primaries === 'bt709';
  if (isShown && (from.alpha === 'none' ? !hasAlphaChannel(image) : from.alpha === alpha)) return image;
  const key = JSON.stringify([from, alpha, image.sample]);
  let converter = converters.get(key);
  if (!converter) {
    const recipe: Recipe = {
      from: { ...from, pixelAspect: { num: 1, den: 1 } },
      under: null,
      picture: untouched,
      to: { alpha, transfer: 'srgb', primaries: 'bt709', sample: 'u8', matte: null },
    };
    converters.set(key, (converter = makeConverter(recipe, image.sample, compiledKernel)));
  }
  return converter(image).image;
}

/** Codes an 8-bit sRGB picture, made smaller where it is wider than asked. */
export function codePreview(shown: Image, width: number, format: PreviewFormat): Promise<Buffer> {
  const raw = { width: shown.width, height: shown.height, channels: shown.channels };
  const pipeline = sharp(shown.data, { raw, limitInputPixels: 2 ** 29 })
    .toColourspace('srgb')
    .resize({ width, withoutEnlargement: true, kernel: 'lanczos3' });
  return format === 'png'
    ? pipeline.png({ compressionLevel: 2 }).toBuffer()
    : pipeline.webp({ quality: 88, alphaQuality: 100, effort: 0 }).toBuffer();
}
