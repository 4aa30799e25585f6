import { z } from 'zod';
import { frameRangeSchema } from '../numbering/ranges.ts';
import { declarationSchema } from '../spec/declaration.ts';
import { specSchema } from '../spec/schema.ts';
import { limitTrySchema } from '../limit/try.ts';
import { rateSchema } from '../timing/rate.ts';
import { sumOf } from './sum.ts';
import { lossSchema, problemSchema, setAsideSchema } from './plan.ts';

const count = z.int().min(0);

/** By channel; journals of earlier versions hold the sum alone. */
const byChannel = z.preprocess(
  (value) => (typeof value === 'number' ? [value, 0, 0] : value),
  z.tuple([count, count, count]),
);

export const pixelCountsSchema = z.object({
  pixels: count,
  low: byChannel,
  high: byChannel,
  nan: count,
  infinite: count.default(0),
  rolled: count.default(0),
  alphaDropped: count,
  glow: count,
});

/** A result that could not be made: the others were. */
export const failureSchema = problemSchema.extend({ frame: z.int(), sourceFrame: z.int(), name: z.string() });
export type Failure = z.infer<typeof failureSchema>;

/** {@link Similarity} of a written picture. */
export const similaritySchema = z.object({ psnr: z.number().nullable(), ssim: z.number() });

/** A file that was written beside others: a sound beside stills, the boxes of a sprite sheet. */
export const writtenBesideSchema = z.object({ name: z.string(), bytes: count, sha256: z.string() });

/** What a video that was written holds. */
export const writtenVideoSchema = z.object({
  frames: count,
  width: z.int(),
  height: z.int(),
  rate: rateSchema,
  /** As the interface words it. */
  format: z.string(),
  sound: z.boolean(),
  /** Of pictures that were held against what went in, in decibels; null where nothing differs or nothing was read. */
  psnr: z.number().nullable(),
  /** Each of them, by the frame it was made as. */
  compared: z.array(similaritySchema.extend({ frame: z.int() })).default([]),
  /** What its pictures came to, kb/s, where a bitrate was asked for. */
  kilobits: z.int().nullable().default(null),
  /** Whole encodes of the search for what is within a limit, in order. */
  tries: z.array(limitTrySchema).default([]),
  /** What was written beside it: of a sprite sheet the JSON that tells where its frames are. */
  beside: writtenBesideSchema.nullable().default(null),
});
export type WrittenVideo = z.infer<typeof writtenVideoSchema>;

/** What was thought before a run: bytes of all results and seconds of work. */
export const estimateSchema = z.object({ bytes: z.number().min(0), seconds: z.number().min(0) });
export type Estimate = z.infer<typeof estimateSchema>;

/** A file that was read, as it was then. */
const readNowSchema = z.object({
  /** Below its root, with `/`. */
  file: z.string(),
  bytes: count,
  /** Of all its bytes, worked out while it was read: {@link sumOf}. */
  sum: z.string(),
  /** Set where it was no longer the file that was planned, and was taken all the same. */
  changed: z.literal(true).optional(),
});
export type ReadFile = z.infer<typeof readNowSchema>;

/** Receipts of before have SHA-256 of what was read, and no other. */
export const readFileSchema = z.preprocess((value) => {
  if (typeof value !== 'object' || value === null || !('sha256' in value)) return value;
  const { sha256, ...rest } = value;
  return { ...rest, sum: sumOf('sha256', String(sha256)) };
}, readNowSchema);

/** One written file, as the journal keeps it, a line each. */
export const writtenSchema = z.object({
  /** Position among the plan's results, from 0. */
  index: count,
  frame: z.int(),
  sourceFrame: z.int(),
  name: z.string(),
  bytes: count,
  /** SHA-256 of the file, in hexadecimal (FIPS 180-4). */
  sha256: z.string(),
  /** Its modification as it was published, milliseconds since 1970; journals of earlier versions do not say. */
  modified: z.number().optional(),
  /** The files of single frames that it was made of; a clip is told once, in the receipt. */
  sources: z.array(readFileSchema).default([]),
  /** What reading it back from disk showed: the same samples, samples that differ by `most`, or not read. */
  check: z.enum(['identical', 'differs', 'none']),
  /** Greatest difference of a sample, in codes for integers, in value for floats. */
  most: z.number().min(0),
  counts: pixelCountsSchema,
  /** Of a lossy still: how near it comes to what was meant. */
  similarity: similaritySchema.optional(),
  /** Of a video. */
  video: writtenVideoSchema.optional(),
});
export type Written = z.infer<typeof writtenSchema>;

/** What was kept before a video was called that everywhere: its facts under another name. */
export function asKeptNow(value: unknown): unknown {
  if (typeof value !== 'object' || value === null || !('film' in value)) return value;
  const { film, ...rest } = value;
  return { video: film, ...rest };
}

/** What a finished job wrote and how it was checked. */
export const receiptSchema = z.object({
  version: z.literal(1),
  source: z.object({ root: z.string(), folder: z.string(), name: z.string() }),
  into: z.object({ root: z.string(), folder: z.string(), pattern: z.string() }),
  /** The plan read aloud. */
  sentence: z.string(),
  declaration: declarationSchema,
  setAside: z.array(setAsideSchema).default([]),
  spec: specSchema,
  planned: count,
  written: count,
  /** How many of them an earlier job wrote: they came of these very files in this very way, and stayed as they were. */
  kept: count.optional(),
  bytes: count,
  failed: z.array(failureSchema),
  /** Source frames that were missing and left out. */
  leftOut: z.array(frameRangeSchema),
  check: z.object({ readBack: count, identical: count, most: z.number() }),
  losses: z.array(lossSchema),
  video: writtenVideoSchema.optional(),
  sound: writtenBesideSchema.optional(),
  /** Files that all results are made of: clips and sounds. Those of single frames are told with their results. */
  sources: z.array(readFileSchema).default([]),
  /** Source files that were taken although they had changed since the plan. */
  changed: z.array(z.string()).default([]),
  /** What was thought of it before it ran. */
  estimate: estimateSchema.optional(),
  /** Numbers of the written files; of a video those of its pictures. */
  coverage: z.array(frameRangeSchema),
  started: z.iso.datetime(),
  finished: z.iso.datetime(),
  /** Version of Shale that made it; receipts of earlier versions do not say. */
  shale: z.string().optional(),
  /** Time spent at work, without stops. */
  workSeconds: z.number().min(0),
});
export type Receipt = z.infer<typeof receiptSchema>;
