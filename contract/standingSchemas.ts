import { z } from 'zod';
import { standingOrderSchema } from '@shale/core';

const count = z.int().min(0);

/** What a standing order decided of a source, or what became of it. */
export const decisionKindSchema = z.enum([
  // Of a source: its batch begins; it is waited with; it is left until it changes; all of it is made already.
  'begins',
  'waits',
  'left',
  'there',
  // Of a batch: it came to its end, or stopped.
  'ended',
  // Of the order itself: set, changed, paused, going on, or in the way of itself.
  'set',
]);
export type DecisionKind = z.infer<typeof decisionKindSchema>;

export const decisionSchema = z.object({
  id: count,
  kind: decisionKindSchema,
  /** Its source; null where it speaks of a batch or of the order. */
  source: z.object({ id: z.string(), folder: z.string(), name: z.string() }).nullable(),
  /** `waits: frames 37,40-42 are missing`. */
  words: z.string(),
  batch: z.string().nullable(),
  at: z.string(),
});
export type Decision = z.infer<typeof decisionSchema>;

/** A standing order as it is told. */
export const standingViewSchema = z.object({
  id: z.string(),
  /** Grows with every change: who changes an older one is refused. */
  edition: count,
  order: standingOrderSchema,
  /** What is made of each source, read aloud. */
  sentence: z.string(),
  paused: z.boolean(),
  /** Why it cannot be carried out at the moment: its folder is away. */
  problem: z.string().nullable(),
  /** Sources by what was decided of them last. */
  counts: z.object({ begins: count, waits: count, left: count, there: count }),
  /** When sources were looked at last; null before the first look. */
  looked: z.string().nullable(),
  /** The last batch that it began. */
  batch: z.string().nullable(),
  created: z.string(),
});
export type StandingView = z.infer<typeof standingViewSchema>;

/** What it would do now, without doing it. */
export const standingTrialSchema = z.object({
  sentence: z.string(),
  /** The first few thousand. */
  decisions: z.array(decisionSchema.omit({ id: true, at: true, batch: true }).extend({ files: count })),
  counts: standingViewSchema.shape.counts,
});
export type StandingTrial = z.infer<typeof standingTrialSchema>;
