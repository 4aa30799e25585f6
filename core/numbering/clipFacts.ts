import { z } from 'zod';
import { rateSchema } from '../timing/rate.ts';
import { frameRangeSchema } from './ranges.ts';

/** Matrices between red, green, blue and luma with two colour differences: ITU-T H.273, table 4. */
export const matrixSchema = z.enum(['rgb', 'bt709', 'bt601', 'bt2020', 'smpte240m', 'fcc', 'ycgco']);
export type Matrix = z.infer<typeof matrixSchema>;
export const matrixWords: Record<Matrix, string> = {
  rgb: 'RGB',
  bt709: 'BT.709',
  bt601: 'BT.601',
  bt2020: 'BT.2020',
  smpte240m: 'SMPTE 240M',
  fcc: 'FCC',
  ycgco: 'YCgCo',
};

/** Where luma 0 and 1 lie: 16 and 235 of 255, or 0 and 255. */
export const rangeSchema = z.enum(['limited', 'full']);
export type VideoRange = z.infer<typeof rangeSchema>;

/** How the lines of a picture belong to moments: all to one, or every other line to a later one. */
export const fieldOrderSchema = z.enum(['progressive', 'top-first', 'bottom-first']);
export type FieldOrder = z.infer<typeof fieldOrderSchema>;

/** What is known of a clip of video beyond the facts of any picture. */
export const clipFactsSchema = z.object({
  /** The codec's short name in the library, such as `h264`, and the container's. */
  codec: z.string(),
  container: z.string(),
  /** The library's name of the pixel layout, such as `yuv420p`. */
  pixels: z.string(),
  /** How colour is coded; `said` is false where the file does not tell and the usual is taken. */
  matrix: z.object({ value: matrixSchema, said: z.boolean() }),
  range: z.object({ value: rangeSchema, said: z.boolean() }),
  /** Clockwise turn in degrees that brings the stored picture upright. */
  turn: z.union([z.literal(0), z.literal(90), z.literal(180), z.literal(270)]),
  /** As the first pictures of the stream say it. */
  fields: fieldOrderSchema,
  /** Seconds of a tick, and the tick at which the first picture begins. */
  base: rateSchema,
  start: z.int(),
  /** Whether pictures stay on for different times, and where they do how long each: `count` pictures of `ticks`. */
  variable: z.boolean(),
  runs: z.array(z.tuple([z.int().min(1), z.int().min(0)])).optional(),
  /** Holes in an even row of pictures: after which one, and how many would fill it. */
  holes: z.array(z.object({ after: z.int(), lost: z.int() })).optional(),
  /** How pictures were counted: every packet read, every picture decoded, or by the container's word. */
  counted: z.enum(['packets', 'pictures', 'header']),
  /** What the container says of the count, where it says anything. */
  said: z.int().optional(),
  /** Pictures that an edit list leaves out. */
  leftOut: z.int().default(0),
  /** Pictures at which decoding can begin, and the longest way from one to the next. */
  keys: z.int(),
  longestGroup: z.int(),
  /** The most bytes of a picture, and all of them. */
  most: z.int(),
  bytes: z.int(),
  /** Pictures at the end of which the data is not whole. */
  cut: z.int().default(0),
  /** Pictures that are built on data that is lost before them, up to the next key. */
  torn: z.array(frameRangeSchema).default([]),
  /** Where the size of the picture changes: the first picture of another size. */
  changesAt: z.int().optional(),
  /** What a look at the fields of some pictures showed. */
  seen: z.enum(['progressive', 'interlaced', 'pulldown']).optional(),
  sound: z
    .object({
      codec: z.string(),
      rate: z.int(),
      channels: z.int(),
      /** How many streams of sound there are, where there are several; this is the one that a player takes. */
      streams: z.int().min(2).optional(),
    })
    .optional(),
});
export type ClipFacts = z.infer<typeof clipFactsSchema>;

/** What becomes of pictures whose lines belong to two moments. */
export const fieldsSchema = z.enum(['keep', 'deinterlace', 'each-field', 'remove-pulldown']);
export type Fields = z.infer<typeof fieldsSchema>;

export const fieldsWords: Record<Fields, string> = {
  keep: 'pictures as stored',
  deinterlace: 'de-interlaced, one picture a frame',
  'each-field': 'de-interlaced, one picture a field',
  'remove-pulldown': '3:2 pulldown removed',
};

/** How many pictures come of so many stored ones. Pulldown puts four pictures into five (SMPTE RP 197). */
export function picturesAfter(stored: number, fields: Fields): number {
  if (fields === 'each-field') return stored * 2;
  return fields === 'remove-pulldown' ? Math.floor(stored / 5) * 4 + (stored % 5) : stored;
}

/** By what a rate is multiplied. */
export const rateAfter = (fields: Fields): { num: number; den: number } =>
  fields === 'each-field' ? { num: 2, den: 1 } : fields === 'remove-pulldown' ? { num: 4, den: 5 } : { num: 1, den: 1 };
