import { z } from 'zod';
import { ShaleError } from '../errors.ts';
import { valueTable } from '../pixels/canvas.ts';
import { maxCode, type Image } from '../pixels/image.ts';
import type { Box } from '../pixels/picture.ts';

/** A stored channel of a picture. */
export const channelNameSchema = z.enum(['red', 'green', 'blue', 'grey', 'alpha']);
export type ChannelName = z.infer<typeof channelNameSchema>;

/** What the stored channels of a picture are called. */
export const channelNames = {
  1: ['grey'],
  2: ['grey', 'alpha'],
  3: ['red', 'green', 'blue'],
  4: ['red', 'green', 'blue', 'alpha'],
} as const;

/** A box cut off at a picture's edges. @throws ShaleError `outside-picture` where its first pixel lies beyond them */
export function cutOff({ left, top, width, height }: Box, picture: Pick<Image, 'width' | 'height'>): Box {
  if (left < 0 || top < 0 || left >= picture.width || top >= picture.height) {
    throw new ShaleError({
      code: 'outside-picture',
      fact: `${left}, ${top} is outside a picture of ${picture.width} x ${picture.height}.`,
      wayOut: 'Ask for a place inside it.',
    });
  }
  return { left, top, width: Math.min(width, picture.width - left), height: Math.min(height, picture.height - top) };
}

/** The stored samples of a pixel: codes of integers, values of floats. */
export function samplesAt(image: Image, x: number, y: number): number[] {
  const at = (y * image.width + x) * image.channels;
  const values = maxCode(image.sample) === undefined ? valueTable(image.sample) : undefined;
  return Array.from({ length: image.channels }, (_, channel) => {
    const stored = image.data[at + channel]!;
    return values ? values[stored]! : stored;
  });
}

/** `R` for red, `Y` for grey. */
export const channelLetter = (name: ChannelName): string => (name === 'grey' ? 'Y' : name[0]!.toUpperCase());

/** `R G B A` as far as a picture has them. */
export const channelLetters = (channels: Image['channels']): string[] => channelNames[channels].map(channelLetter);

/** A stored sample as it is read: a code, or a value with six significant digits. */
export const printSample = (value: number, float: boolean): string =>
  float && Number.isFinite(value) ? String(Number(value.toPrecision(6))) : String(value);
