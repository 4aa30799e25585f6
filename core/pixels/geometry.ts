import { makeSamples, type Image } from './image.ts';
import type { Box, Picture, Size } from './picture.ts';

/** A picture whose every pixel is one of another's, bit for bit. @param from the source pixel (y * width + x) of a result's, -1 for none */
function moved(image: Image, { width, height }: Size, from: (x: number, y: number) => number): Image {
  const { channels, sample, data: source } = image;
  const data = makeSamples(sample, width * height * channels);
  let to = 0;
  for (let y = 0; y < height; y += 1) {
    for (let x = 0; x < width; x += 1) {
      const at = from(x, y) * channels;
      if (at >= 0) for (let channel = 0; channel < channels; channel += 1) data[to + channel] = source[at + channel]!;
      to += channels;
    }
  }
  return { width, height, channels, sample, data };
}

/** Turned clockwise by quarters, then flipped. Bit-exact. */
export function orient(image: Image, { turn, flip }: Pick<Picture, 'turn' | 'flip'>): Image {
  if (turn === 0 && flip === 'none') return image;
  const { width, height } = image;
  const sideways = turn === 90 || turn === 270;
  const size = sideways ? { width: height, height: width } : { width, height };
  return moved(image, size, (across, down) => {
    const x = flip === 'across' ? size.width - 1 - across : across;
    const y = flip === 'down' ? size.height - 1 - down : down;
    if (turn === 90) return (height - 1 - x) * width + y;
    if (turn === 180) return (height - 1 - y) * width + (width - 1 - x);
    return turn === 270 ? x * width + (width - 1 - y) : y * width + x;
  });
}

/** A part of a picture, row by row. Bit-exact. The box lies within. */
export function crop(image: Image, { left, top, width, height }: Box): Image {
  const { channels, sample } = image;
  if (left === 0 && top === 0 && width === image.width && height === image.height) return image;
  const data = makeSamples(sample, width * height * channels);
  for (let row = 0; row < height; row += 1) {
    const from = ((top + row) * image.width + left) * channels;
    data.set(image.data.subarray(from, from + width * channels), row * width * channels);
  }
  return { width, height, channels, sample, data };
}

/** Every pixel of the result is the one of the source whose middle is nearest. Bit-exact. */
export function nearest(image: Image, size: Size): Image {
  const across = Int32Array.from({ length: size.width }, (_, x) => Math.floor(((x + 0.5) * image.width) / size.width));
  const down = Int32Array.from({ length: size.height }, (_, y) => Math.floor(((y + 0.5) * image.height) / size.height));
  return moved(image, size, (x, y) => down[y]! * image.width + across[x]!);
}

/** Where a picture lies in a padded one. */
export function padding(from: Size, to: Size, where: 'end' | 'around'): { left: number; top: number } {
  if (where === 'end') return { left: 0, top: 0 };
  return { left: Math.floor((to.width - from.width) / 2), top: Math.floor((to.height - from.height) / 2) };
}

/** A larger picture with this one in it; what is added is 0: black, and clear where there is alpha. Bit-exact. */
export function pad(image: Image, size: Size, where: 'end' | 'around'): Image {
  const { left, top } = padding(image, size, where);
  return moved(image, size, (x, y) => {
    const within = x >= left && y >= top && x < left + image.width && y < top + image.height;
    return within ? (y - top) * image.width + x - left : -1;
  });
}

/** A picture that is larger to the right and below, where its last column and row stand again. Bit-exact. */
export function repeatEdge(image: Image, { width, height }: Size): Image {
  if (width === image.width && height === image.height) return image;
  const { channels, data, sample } = image;
  const padded = makeSamples(sample, width * height * channels);
  for (let y = 0; y < height; y += 1) {
    const from = Math.min(y, image.height - 1) * image.width * channels;
    const row = data.subarray(from, from + image.width * channels);
    padded.set(row, y * width * channels);
    for (let x = image.width; x < width; x += 1)
      padded.set(row.subarray(row.length - channels), (y * width + x) * channels);
  }
  return { width, height, channels, sample, data: padded };
}

/** The smallest box that holds every pixel with an alpha above 0; undefined where none has. */
export function contentBox(image: Image): Box | undefined {
  const { width, height, channels, data } = image;
  if (channels === 1 || channels === 3) return { left: 0, top: 0, width, height };
  let [left, top, right, bottom] = [width, height, -1, -1];
  for (let y = 0; y < height; y += 1) {
    for (let x = 0; x < width; x += 1) {
      if (data[(y * width + x) * channels + channels - 1] === 0) continue;
      if (x < left) left = x;
      if (x > right) right = x;
      if (y < top) top = y;
      bottom = y;
    }
  }
  return right < 0 ? undefined : { left, top, width: right - left + 1, height: bottom - top + 1 };
}

/** A box grown on the sides with more room, until its middle is that of the picture: what turns about the middle goes on doing so. */
export function centredBox({ left, top, width, height }: Box, size: Size): Box {
  const aside = Math.min(left, size.width - left - width);
  const above = Math.min(top, size.height - top - height);
  return { left: aside, top: above, width: size.width - 2 * aside, height: size.height - 2 * above };
}

/** The smallest box that holds two. */
export function boxAround(a: Box | undefined, b: Box | undefined): Box | undefined {
  if (!a || !b) return a ?? b;
  const left = Math.min(a.left, b.left);
  const top = Math.min(a.top, b.top);
  return {
    left,
    top,
    width: Math.max(a.left + a.width, b.left + b.width) - left,
    height: Math.max(a.top + a.height, b.top + b.height) - top,
  };
}
