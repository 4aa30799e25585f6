import { z } from 'zod';
import {
  declarationSchema,
  lossSchema,
  pixelCountsSchema,
  planSchema,
  problemSchema,
  receiptSchema,
  sourceSchema,
  specSchema,
  frameRangeSchema,
} from '@shale/core';

/** A folder of the machine that Shale may read, or may write. */
export const rootSchema = z.object({
  id: z.string(),
  name: z.string(),
  path: z.string(),
  writable: z.boolean(),
  /** Sources found at the last scan. */
  sources: z.int(),
  files: z.int(),
  bytes: z.int(),
  /** ISO 8601; null before the first scan. */
  scanned: z.string().nullable(),
  scanning: z.boolean(),
  /** Why it could not be scanned. */
  problem: problemSchema.nullable(),
});
export type Root = z.infer<typeof rootSchema>;

/** A source with its place and what it is taken to be. */
export const listedSourceSchema = sourceSchema.extend({
  id: z.string(),
  root: z.string(),
  declaration: declarationSchema,
});
export type ListedSource = z.infer<typeof listedSourceSchema>;

export const jobStateSchema = z.enum(['queued', 'running', 'stopped', 'done']);

export const jobSchema = z.object({
  id: z.string(),
  source: z.string(),
  state: jobStateSchema,
  /** The plan read aloud. */
  sentence: z.string(),
  sourceName: z.string(),
  into: z.object({ root: z.string(), folder: z.string(), pattern: z.string() }),
  total: z.int(),
  written: z.int(),
  failed: z.int(),
  bytes: z.int(),
  /** Numbers of the results so far, and of those that failed. */
  coverage: z.array(frameRangeSchema),
  failedFrames: z.array(frameRangeSchema),
  /** Numbers that will not exist, since their source frames are missing. */
  leftOut: z.array(frameRangeSchema),
  /** First and last number that the plan gives. */
  span: z.object({ first: z.int(), last: z.int() }).nullable(),
  workSeconds: z.number(),
  /** Files a second since it last began; null until there are enough to say. */
  rate: z.number().nullable(),
  secondsLeft: z.number().nullable(),
  created: z.string(),
  finished: z.string().nullable(),
  /** Why it stopped by itself. */
  problem: problemSchema.nullable(),
});
export type Job = z.infer<typeof jobSchema>;

export const measuredSchema = z.object({
  /** Source frames that were really converted. */
  frames: z.array(z.int()),
  counts: pixelCountsSchema,
  losses: z.array(lossSchema),
  /** Estimates for the whole plan. */
  bytes: z.int(),
  seconds: z.number(),
  problems: z.array(problemSchema),
});
export type Measured = z.infer<typeof measuredSchema>;

export const savedSpecSchema = z.object({
  id: z.int(),
  name: z.string(),
  version: z.int(),
  spec: specSchema,
  saved: z.string(),
});
export type SavedSpec = z.infer<typeof savedSpecSchema>;

export const receiptEntrySchema = receiptSchema.extend({ job: z.string() });
export type ReceiptEntry = z.infer<typeof receiptEntrySchema>;

/** An error as RFC 9457 writes it, with the code, the fact and the way out. */
export const problemDetailsSchema = z.object({
  type: z.string(),
  title: z.string(),
  status: z.int(),
  detail: z.string(),
  code: z.string(),
  fact: z.string(),
  wayOut: z.string(),
  subject: z.string().optional(),
});
export type ProblemDetails = z.infer<typeof problemDetailsSchema>;

/** What the event stream tells. */
export const eventSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('job'), job: jobSchema }),
  z.object({ type: z.literal('root'), root: rootSchema }),
  z.object({ type: z.literal('sources'), root: z.string() }),
]);
export type ServerEvent = z.infer<typeof eventSchema>;

export { planSchema };
