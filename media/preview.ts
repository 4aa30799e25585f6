import sharp from 'sharp';
import { hasAlphaChannel, makeConverter, untouched, type Declaration, type Image } from '@shale/core';
import { compiledKernels } from './kernels.ts';

/** How a preview is coded: lossless PNG or small WebP. */
export type PreviewFormat = 'webp' | 'png';

/**
 * A picture for looking at: 8-bit sRGB with straight alpha, no larger than asked, read as it is declared. What is not
 * declared is shown as straight sRGB. Scaling is done in premultiplied space.
 * @param width the most pixels across; the picture is never enlarged
 */
export async function makePreview(
  image: Image,
  declaration: Declaration,
  width: number,
  format: PreviewFormat,
): Promise<Buffer> {
  const recipe = {
    from: {
      alpha: hasAlphaChannel(image) ? (declaration.alpha.value ?? 'straight') : ('none' as const),
      transfer: declaration.transfer.value ?? ('srgb' as const),
      primaries: declaration.primaries.value ?? ('bt709' as const),
      pixelAspect: { num: 1, den: 1 },
    },
    picture: untouched,
    to: { alpha: 'straight' as const, transfer: 'srgb' as const, primaries: 'bt709' as const, sample: 'u8' as const },
  };
  const { image: shown } = makeConverter(recipe, image.sample, compiledKernels)(image);
  const raw = { width: shown.width, height: shown.height, channels: shown.channels };
  const pipeline = sharp(shown.data as Uint8Array, { raw, limitInputPixels: 2 ** 29 })
    .toColourspace('srgb')
    .resize({ width, withoutEnlargement: true, kernel: 'lanczos3' });
  return format === 'png'
    ? pipeline.png({ compressionLevel: 2 }).toBuffer()
    : pipeline.webp({ quality: 88, alphaQuality: 100, effort: 1 }).toBuffer();
}
