import { LRUCache } from 'lru-cache';
import { sharp } from './libvips.ts';
import {
  hasAlphaChannel,
  makeConverter,
  untouched,
  viewOf,
  type Converter,
  type Image,
  type Recipe,
  type Taken,
  type View,
} from '@shale/core';
import { quickPng } from './formats/png.ts';
import { compiledKernel } from './kernels.ts';
import { displayView, gatherQuickly } from './pixels/view.ts';

/** How a preview is coded: lossless as PNG, or as quickly as can be: JPEG where it is opaque, PNG where it is not. */
export type PreviewFormat = 'quick' | 'png';

/** {@link viewOf} by compiled loops. */
export const lookView = (image: Image, taken: Taken, width: number): View => viewOf(image, taken, width, gatherQuickly);

/**
 * A picture for looking at: 8-bit sRGB with straight alpha, no larger than asked. Where it is smaller it is the view in light, displayed,
 * so that looking at it in another way moves nothing.
 * @param width the most pixels across; the picture is never enlarged
 */
export async function makePreview(image: Image, taken: Taken, width: number, format: PreviewFormat): Promise<Buffer> {
  if (image.width <= width) return codePreview(displayed(image, taken, 'straight'), width, format);
  return codePreview(displayView(lookView(image, taken, width)), width, format);
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
export async function codePreview(shown: Image, width: number, format: PreviewFormat): Promise<Buffer> {
  const raw = { width: shown.width, height: shown.height, channels: shown.channels };
  const pipeline = sharp(shown.data, { raw, limitInputPixels: 2 ** 29 })
    .toColourspace('srgb')
    .resize({ width, withoutEnlargement: true, kernel: 'lanczos3' });
  if (format === 'png') return pipeline.png({ compressionLevel: 2 }).toBuffer();
  // With grain either takes a tenth of WebP's time; JPEG at full colour has no more bytes.
  if (isOpaque(shown)) return pipeline.removeAlpha().jpeg({ quality: 92, chromaSubsampling: '4:4:4' }).toBuffer();
  if (shown.width <= width) return quickPng(shown);
  const { data, info } = await pipeline.raw().toBuffer({ resolveWithObject: true });
  return quickPng({
    width: info.width,
    height: info.height,
    channels: info.channels,
    sample: 'u8',
    data,
  });
}

/** Whether no pixel of 8 bits lets anything through. */
function isOpaque({ channels, data }: Image): boolean {
  if (channels % 2 === 1) return true;
  for (let at = channels - 1; at < data.length; at += channels) if (data[at] !== 255) return false;
  return true;
}
