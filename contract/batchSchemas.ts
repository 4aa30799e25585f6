import { z } from 'zod';
import {
  batchSchema,
  breachSchema,
  lossSchema,
  mostSources,
  partSchema,
  problemSchema,
  spokenSchema,
  sumsSchema,
} from '@shale/core';
import { id } from './route.ts';
import { jobPrioritySchema, jobStateSchema, sourceFilterSchema } from './schemas.ts';

const count = z.int().min(0);
const ids = z.array(id).min(1).max(mostSources);

/** Which sources: a list of them, all that a filter leaves, or a list that was kept. */
export const manySchema = z.union([
  z.object({ sources: ids }).strict(),
  z.object({ filter: sourceFilterSchema.strict() }).strict(),
  z.object({ selection: id }).strict(),
]);
export type Many = z.infer<typeof manySchema>;

/** What of a batch is made: all of it, which refuses names that exist; or what is missing or changed since it was made. */
export const makesSchema = z.enum(['all', 'new']);
export type Makes = z.infer<typeof makesSchema>;

/** Sources and what is wanted of them. */
export const wantedOfManySchema = z
  .object({ of: manySchema, batch: batchSchema, makes: makesSchema.default('all') })
  .strict();

/** A part of a batch, with what is there of it already. */
export const plannedPartSchema = partSchema.extend({
  /** Names of it that exist. */
  taken: count,
  /** Results that stay as they are, where only what is new is made. */
  kept: count,
  /** Numbers of results that are there and have no source frame any more, as ranges: `37,40-42`. They are told, and stay. */
  leftOver: z.string(),
  /** What the receiver that was named would trip over. */
  breaches: z.array(breachSchema).default([]),
});
export type PlannedPart = z.infer<typeof plannedPartSchema>;

/** A batch worked out; nothing is written. */
export const batchPlanSchema = z.object({
  digest: z.string(),
  sums: sumsSchema,
  /** All of its sources, told together. */
  spoken: spokenSchema,
  parts: z.array(plannedPartSchema),
  /** Ids that name no source any more. */
  gone: z.array(z.string()),
  /** Bytes free on the disk of each root that is written; null where it does not tell. */
  rooms: z.array(z.object({ root: z.string(), free: z.number().min(0).nullable() })),
});
export type BatchPlan = z.infer<typeof batchPlanSchema>;

/** A batch that was begun, told as one. */
export const batchViewSchema = z.object({
  id: z.string(),
  sentence: z.string(),
  /** Of its jobs together. */
  state: jobStateSchema,
  priority: jobPrioritySchema,
  sources: count,
  outputs: count,
  jobs: count,
  /** How many of them are in which state. */
  states: z.partialRecord(jobStateSchema, count),
  files: z.object({ written: count, failed: count, total: count }),
  /** Results, the pictures of videos among them. */
  frames: z.object({ done: count, of: count }),
  bytes: count,
  workSeconds: z.number(),
  secondsLeft: z.number().nullable(),
  /** Id of the standing order that began it. */
  standing: z.string().nullable().default(null),
  /** Where it writes: the first few folders. */
  into: z.array(z.string()),
  /** Parts that were refused when it was begun, and why. */
  refused: z.array(
    z.object({ source: z.string().default(''), name: z.string(), output: count, problem: problemSchema }),
  ),
  /** Jobs that stopped for a reason: the first few. */
  troubles: z.array(z.object({ job: z.string(), name: z.string(), problem: problemSchema })),
  created: z.string(),
  finished: z.string().nullable(),
});
export type BatchView = z.infer<typeof batchViewSchema>;

/** What a part of a batch wrote and how it was checked. */
export const partReceiptSchema = z.object({
  job: z.string(),
  source: z.object({ root: z.string(), folder: z.string(), name: z.string() }),
  output: count,
  into: z.object({ root: z.string(), folder: z.string(), pattern: z.string() }),
  sentence: z.string(),
  planned: count,
  written: count,
  /** How many of them an earlier job wrote, and stayed. */
  kept: count,
  failed: count,
  bytes: count,
  check: z.object({ readBack: count, identical: count, most: z.number() }),
  losses: z.array(lossSchema),
  started: z.string(),
  finished: z.string(),
});
export type PartReceipt = z.infer<typeof partReceiptSchema>;

export const batchReceiptSchema = z.object({
  batch: batchViewSchema,
  /** In the order of the batch; those without a receipt yet are not among them. */
  parts: z.array(partReceiptSchema),
});
export type BatchReceipt = z.infer<typeof batchReceiptSchema>;

/** About what a part comes to. */
export const partEstimateSchema = z.object({
  source: z.string(),
  output: count,
  bytes: z.number(),
  seconds: z.number(),
});
export type PartEstimate = z.infer<typeof partEstimateSchema>;

/** One result of a part, really made as a run would make it, looked at, and not kept. */
export const triedPartSchema = z.object({
  source: z.string(),
  output: count,
  /** The frame that was tried; null where there was none to try. */
  sourceFrame: z.int().nullable(),
  bytes: count,
  /** As it was read back: the same, or off by how much at the most. */
  check: z.enum(['identical', 'differs', 'none']),
  most: z.number(),
  problem: problemSchema.nullable(),
});
export type TriedPart = z.infer<typeof triedPartSchema>;

/** Sources of which a result can be tried by one request. */
export const mostTried = 50;
