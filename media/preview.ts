import sharp from 'sharp';
import { hasAlphaChannel, makeConverter, untouched, type Image, type Taken } from '@shale/core';
import { compiledKernel } from './kernels.ts';

/** How a preview is coded: lossless PNG or small WebP. */
export type PreviewFormat = 'webp' | 'png';

/**
 * A picture for looking at: 8-bit sRGB with straight alpha, no larger than asked. Scaling is done in premultiplied space.
 * @param width the most pixels across; the picture is never enlarged
 */
export async function makePreview(image: Image, taken: Taken, width: number, format: PreviewFormat): Promise<Buffer> {
  const recipe = {
    from: {
      alpha: hasAlphaChannel(image) ? taken.alpha : ('none' as const),
      transfer: taken.transfer,
      primaries: taken.primaries,
      pixelAspect: { num: 1, den: 1 },
      matte: taken.matte,
    },
    under: null,
    picture: untouched,
    to: {
      alpha: 'straight' as const,
      transfer: 'srgb' as const,
      primaries: 'bt709' as const,
      sample: 'u8' as const,
      matte: null,
    },
  };
  const { image: shown } = makeConverter(recipe, image.sample, compiledKernel)(image);
  return codePreview(shown, width, format);
}

/** Codes an 8-bit sRGB picture, made smaller where it is wider than asked. */
export function codePreview(shown: Image, width: number, format: PreviewFormat): Promise<Buffer> {
  const raw = { width: shown.width, height: shown.height, channels: shown.channels };
  const pipeline = sharp(shown.data as Uint8Array, { raw, limitInputPixels: 2 ** 29 })
    .toColourspace('srgb')
    .resize({ width, withoutEnlargement: true, kernel: 'lanczos3' });
  return format === 'png'
    ? pipeline.png({ compressionLevel: 2 }).toBuffer()
    : pipeline.webp({ quality: 88, alphaQuality: 100, effort: 1 }).toBuffer();
}
