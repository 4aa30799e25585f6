import { z } from 'zod';
import { sampleSchema } from '../numbering/source.ts';
import { declaredTransferSchema } from '../pixels/colourNames.ts';
import { rateSchema } from '../timing/rate.ts';

const length = z.int().min(1).max(1_000_000);
const alphaSchema = z.enum(['none', 'straight', 'premultiplied']);

/** The rules of a tool that reads what is handed over. A rule that is null asks for nothing. */
export const receiverSchema = z
  .object({
    version: z.literal(1),
    name: z.string().trim().min(1).max(80),
    /** What it stands for, in a line. */
    about: z.string().max(300).default(''),
    /** Which characters a name may hold but for its separator and dot: any, those of ASCII, or letters and digits. */
    characters: z.enum(['any', 'ascii', 'plain']).default('any'),
    /** With letters and digits: which other characters are allowed. */
    keep: z.string().max(20).default(''),
    /** What stands between the stem and the number, and nothing between number and ending. */
    separator: z.enum(['.', '_', '-', ' ', '']).nullable().default(null),
    /** Exactly so many digits. */
    digits: z.int().min(1).max(20).nullable().default(null),
    /** Whether it plays files in the order of their names: 1, 10, 2 where numbers have not one width. */
    byName: z.boolean().default(false),
    first: z.int().min(0).max(100_000_000).nullable().default(null),
    letters: z.enum(['lower', 'upper']).nullable().default(null),
    /** Whether a missing number ends the sequence. */
    unbroken: z.boolean().default(false),
    /** Whether it takes every picture of the folder. */
    alone: z.boolean().default(false),
    /** Characters of a name, and of the whole path. */
    nameLength: length.nullable().default(null),
    pathLength: length.nullable().default(null),
    /** Ids of formats, as `png`. */
    formats: z
      .array(z.string().regex(/^[a-z0-9]{2,12}$/))
      .min(1)
      .max(40)
      .nullable()
      .default(null),
    samples: z.array(sampleSchema).min(1).nullable().default(null),
    alpha: z.array(alphaSchema).min(1).nullable().default(null),
    transfers: z.array(declaredTransferSchema).min(1).nullable().default(null),
    /** Pixels at most, and what both sides must be a multiple of. */
    maxWidth: length.nullable().default(null),
    maxHeight: length.nullable().default(null),
    multipleOf: z.int().min(2).max(1024).nullable().default(null),
    rates: z.array(rateSchema).min(1).max(40).nullable().default(null),
    /** Bytes of a frame on average, and of all. */
    frameBytes: z.int().min(1).nullable().default(null),
    totalBytes: z.int().min(1).nullable().default(null),
  })
  .strict();
export type Receiver = z.output<typeof receiverSchema>;
export type ReceiverInput = z.input<typeof receiverSchema>;

/** Receivers as they are handed from one Shale to another. */
export const receiverFileSchema = z
  .object({ shale: z.literal('receivers'), version: z.literal(1), receivers: z.array(receiverSchema).min(1).max(200) })
  .strict();
