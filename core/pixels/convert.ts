import { ShaleError } from '../errors.ts';
import type { SampleFormat } from '../numbering/source.ts';
import { crop, nearest, orient, pad } from './geometry.ts';
import { hasAlphaChannel, maxCode, type Image } from './image.ts';
import { noKernel, type Kernel } from './kernel.ts';
import { doesAny, resizedSize, sizeAfter, turnedAspect } from './picture.ts';
import { withAlphaFrom } from './alphaFrom.ts';
import { makePlainConverter, type Converter, type Others } from './plain.ts';
import { noCounts, type Recipe } from './recipe.ts';
import { makeWorkshop } from './workshop.ts';

export type { Converter, Others } from './plain.ts';

/** Whether colours are more than looked up: mixed with their neighbours, with another colour, or by a matrix. */
export const mixesColours = ({ from, picture, to }: Recipe): boolean =>
  doesAny(picture, 'mixes') ||
  from.primaries !== to.primaries ||
  from.alpha === 'on-colour' ||
  to.matte !== null ||
  to.alpha === 'matte';

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
      fact: `The crop of ${box.width} x ${box.height} from ${box.left}, ${box.top} reaches outside a picture of ${turned.width} x ${turned.height}.`,
      wayOut: 'Choose a crop within every frame, or leave out frames of another size.',
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
export function makeConverter(recipe: Recipe, sample: SampleFormat, kernel: Kernel = noKernel): Converter {
  const taken = withTakenAlpha(recipe);
  const mixes = mixesColours(taken);
  const workshop = mixes ? makeWorkshop(taken, kernel) : undefined;
  const plain = workshop ? undefined : makePlainConverter(taken, sample, kernel);
  const keeps = !mixes && keepsSamples(taken, sample);
  return (image, others = {}) => {
    const arranged = rearrange(withAlpha(image, recipe, others), recipe, mixes);
    if (keeps && hasAlphaChannel(arranged) === (taken.to.alpha === 'straight'))
      return { image: arranged, counts: { ...noCounts(), pixels: arranged.width * arranged.height } };
    return workshop ? workshop(arranged, { under: others.under }) : plain!(arranged);
  };
}

/** Whether every sample of an integer picture stays what it is, as long as it has alpha or none as the result has. */
const keepsSamples = ({ from, to }: Recipe, sample: SampleFormat): boolean =>
  maxCode(sample) !== undefined &&
  sample === to.sample &&
  from.transfer === to.transfer &&
  from.alpha === to.alpha &&
  (to.alpha === 'none' || to.alpha === 'straight');

/** A picture with the alpha that comes from another source, where one is asked for. */
export function withAlpha(image: Image, { picture }: Recipe, { alphaFrom }: Others): Image {
  if (!picture.alphaFrom) return image;
  if (!alphaFrom) throw new Error('there is no picture to take alpha from');
  return withAlphaFrom(image, alphaFrom, picture.alphaFrom);
}

/** The recipe for a picture once it has the alpha that comes from another source. */
export const withTakenAlpha = (recipe: Recipe): Recipe =>
  recipe.picture.alphaFrom
    ? {
        ...recipe,
        from: { ...recipe.from, alpha: recipe.picture.alphaFrom.premultiplied ? 'premultiplied' : 'straight' },
      }
    : recipe;
