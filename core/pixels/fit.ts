import type { Facts } from '../numbering/source.ts';
import { makeConverter } from './convert.ts';
import { pad } from './geometry.ts';
import { fullAlpha, greyToColour, hasAlphaChannel, makeSamples, type Image } from './image.ts';
import { resizedSize, untouched, type Picture } from './picture.ts';
import type { Recipe } from './recipe.ts';

/** What pictures of one sequence share. */
export type Shape = Pick<Facts, 'width' | 'height' | 'channels'>;

/** Channels of the pictures; undefined where they are neither grey nor red, green and blue. */
function countOf({ channels }: Shape): number | undefined {
  const colours = ['R', 'G', 'B'].every((name) => channels.includes(name)) ? 3 : channels[0] === 'Y' ? 1 : undefined;
  return colours && colours + (channels.some((name) => /^(A|alpha)$/i.test(name)) ? 1 : 0);
}

/** Whether a picture has the size and the channels that its sequence has. */
export const isOfShape = (image: Image, shape: Shape): boolean =>
  image.width === shape.width && image.height === shape.height && image.channels === (countOf(shape) ?? image.channels);

/** An opaque alpha added, or an alpha left out. */
function withAlpha(image: Image, wanted: boolean): Image {
  if (hasAlphaChannel(image) === wanted) return image;
  const { width, height, channels, sample, data: source } = image;
  const count = (channels + (wanted ? 1 : -1)) as Image['channels'];
  const data = makeSamples(sample, width * height * count);
  const kept = Math.min(channels, count);
  for (let pixel = 0; pixel < width * height; pixel += 1) {
    for (let channel = 0; channel < kept; channel += 1)
      data[pixel * count + channel] = source[pixel * channels + channel]!;
    if (wanted) data[pixel * count + kept] = fullAlpha(image);
  }
  return { width, height, channels: count, sample, data };
}

/**
 * A picture that differs from its sequence brought to its size and channels: made as large as fits and laid in the middle, what
 * is free being clear or black; grey as colour, a missing alpha full. Floats where it had to be resized.
 */
export function fitToShape(image: Image, shape: Shape, from: Recipe['from']): Image {
  const count = countOf(shape) ?? image.channels;
  const same = withAlpha(count >= 3 ? greyToColour(image) : image, count % 2 === 0);
  if (same.width === shape.width && same.height === shape.height) return same;
  const scale = Math.min(shape.width / same.width, shape.height / same.height);
  const to = {
    by: 'size',
    width: Math.round(same.width * scale) || 1,
    height: Math.round(same.height * scale) || 1,
  } as const;
  const resize: Picture['resize'] = { to, filter: 'lanczos', light: 'stored' };
  // What lies on a colour is mixed as the plain picture that it is.
  const alpha = from.alpha === 'premultiplied' ? ('premultiplied' as const) : ('straight' as const);
  const recipe: Recipe = {
    from: { ...from, alpha: from.alpha === 'ignore' || from.alpha === 'on-colour' ? 'straight' : from.alpha },
    under: null,
    picture: { ...untouched, resize },
    to: { alpha, transfer: from.transfer, primaries: from.primaries, sample: 'f32', matte: null },
  };
  const { image: resized } = makeConverter(recipe, same.sample)(same);
  const { width, height } = resizedSize(same, resize);
  return width === shape.width && height === shape.height ? resized : pad(resized, shape, 'around');
}
