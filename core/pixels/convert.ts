import { ShaleError } from '../errors.ts';
import type { SampleFormat } from '../numbering/source.ts';
import { crop, nearest, orient, pad } from './geometry.ts';
import { hasAlphaChannel, type Image } from './image.ts';
import { plainKernels, type Kernels } from './packed.ts';
import { resizedSize, sizeAfter, turnedAspect, type Picture } from './picture.ts';
import { makePlainConverter, type Converter } from './plain.ts';
import type { Recipe } from './recipe.ts';
import { makeWorkshop } from './workshop.ts';

export type { Converter } from './plain.ts';

/** Whether colours are more than looked up: mixed with their neighbours, with another colour, or by a matrix. */
export const mixesColours = ({ from, picture, to }: Recipe): boolean =>
  picture.key !== null ||
  picture.over !== null ||
  picture.levels !== null ||
  (picture.resize !== null && picture.resize.filter !== 'nearest') ||
  from.primaries !== to.primaries ||
  picture.highlights !== 'clip' ||
  picture.dither !== 'none' ||
  to.alpha === 'matte';

/** Whether the pixels of a picture stay where and what they are. */
export const movesNothing = ({ turn, flip, crop: box, resize, pad: more }: Picture): boolean =>
  turn === 0 && flip === 'none' && box === null && resize === null && more === null;

/**
 * What only moves stored samples about, bit for bit, in the design's order: turn, flip, crop, then nearest and padding where
 * nothing that mixes colours comes before them.
 */
export function rearrange(image: Image, { picture, from }: Recipe, mixes: boolean): Image {
  const turned = orient(image, picture);
  const { crop: box } = picture;
  if (box && (box.left + box.width > turned.width || box.top + box.height > turned.height)) {
    throw new ShaleError({
      code: 'crop-outside',
      fact: `The crop of ${box.width} x ${box.height} from ${box.left}, ${box.top} reaches beyond a picture of ${turned.width} x ${turned.height}.`,
      wayOut: 'Choose a crop within every frame, or leave frames of another size out.',
    });
  }
  const cropped = box ? crop(turned, box) : turned;
  const { resize } = picture;
  if (resize && resize.filter !== 'nearest') return cropped;
  const resized = resize
    ? nearest(cropped, resizedSize(cropped, resize, turnedAspect(from.pixelAspect, picture)))
    : cropped;
  if (!picture.pad || mixes) return resized;
  return pad(resized, sizeAfter(image, picture, from.pixelAspect), picture.pad.where);
}

/**
 * Makes a converter for pictures of `sample`: decode, declared alpha and transfer, turn, crop, key, resize, pad, lay over a
 * colour, levels, alpha out, transfer out, depth out. What only moves samples is done on the samples; what only looks them up
 * goes by tables; the rest is worked in floats.
 */
export function makeConverter(recipe: Recipe, sample: SampleFormat, kernels: Kernels = plainKernels): Converter {
  const mixes = mixesColours(recipe);
  const work = mixes ? makeWorkshop(recipe) : makePlainConverter(recipe, sample, kernels);
  return (image) => work(rearrange(image, recipe, mixes));
}

/** How many channels a picture has once converted. */
export function channelsAfter(channels: Image['channels'], { from, picture, to }: Recipe): Image['channels'] {
  if (to.alpha === 'matte') return 1;
  const colours = channels <= 2 ? 1 : 3;
  const usesAlpha = (hasAlphaChannel({ channels }) && from.alpha !== 'ignore' && from.alpha !== 'none') || picture.key;
  return (usesAlpha && to.alpha !== 'none' ? colours + 1 : colours) as Image['channels'];
}
