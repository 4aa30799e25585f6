import { z } from 'zod';
import { frameRangeSchema } from '../numbering/ranges.ts';
import { severitySchema } from '../numbering/source.ts';
import { recipeSchema } from '../pixels/recipe.ts';
import { declarationSchema } from '../spec/declaration.ts';
import { specSchema } from '../spec/schema.ts';
import { rateSchema } from '../timing/rate.ts';
import { otherSchema, plannedSourceSchema } from './others.ts';
import { intoSchema, readInto } from './into.ts';
import { plannedSoundSchema } from './sound.ts';

/**
 * `count` results in a row: result k has the number `to + k * toStep` and comes from the source frame
 * `from + stride * floor((phase + floor(k / repeat) * fromStep) / den)`, which is `from + k * fromStep` where nothing else is said;
 * with `fromStep` 0 a frame is held. A `slate` run makes pictures that say what is missing, a `title` run such that say what follows; a
 * `missing` run tells what would be there and is not.
 */
export const planRunSchema = z.object({
  kind: z.enum(['write', 'slate', 'missing', 'title']),
  from: z.int(),
  fromStep: z.int(),
  to: z.int(),
  toStep: z.int(),
  count: z.int().min(1),
  phase: z.int().min(0).optional(),
  den: z.int().min(1).optional(),
  repeat: z.int().min(1).optional(),
  /** Frames from one of the source to the next that is taken; 1 where nothing is said. */
  stride: z.int().min(0).optional(),
  /** Which of the shots that follow one another; 0, the source itself, where nothing is said. */
  shot: z.int().min(0).optional(),
  /**
   * Two frames become one: `blend` and `motion` count places in 1,024ths of a stride and take what stands between a frame and the next;
   * `lines` has its even rows of `from` and the odd ones of a second line with `other` and `otherPhase`.
   */
  mix: z.enum(['blend', 'motion', 'lines']).optional(),
  other: z.int().optional(),
  otherPhase: z.int().min(0).optional(),
});
export type PlanRun = z.infer<typeof planRunSchema>;

/** What the plan throws away or cannot keep. */
export const lossSchema = z.object({
  code: z.string(),
  severity: severitySchema,
  sentence: z.string(),
  /** The amount as it is shown: `100%`, `0 px`, `1`. */
  amount: z.string(),
});
export type Loss = z.infer<typeof lossSchema>;

/** Something for which the plan may not run, with the way out. */
export const problemSchema = z.object({
  code: z.string(),
  fact: z.string(),
  wayOut: z.string(),
  subject: z.string().optional(),
});

/** A finding that a person set aside before the run, and why. */
export const setAsideSchema = z.object({ code: z.string(), sentence: z.string(), reason: z.string() });

/** What a plan keeps of a source that follows the first. */
export const plannedShotSchema = z.object({
  root: z.string(),
  source: plannedSourceSchema,
  declaration: declarationSchema,
  recipe: recipeSchema.nullable(),
  /** Its frames that were asked for, or lie between, and are not there. */
  missing: z.array(frameRangeSchema).default([]),
});
export type PlannedShot = z.infer<typeof plannedShotSchema>;

/** Source, declaration and spec, worked out. Nothing is written yet. A plain value: it survives JSON. */
const wholePlanSchema = z.object({
  version: z.literal(1),
  /** Root id, or the folder itself on the command line. */
  root: z.string(),
  source: plannedSourceSchema,
  declaration: declarationSchema,
  /** Sources whose frames follow, each with its own way to the same pictures. */
  shots: z.array(plannedShotSchema).default([]),
  setAside: z.array(setAsideSchema).default([]),
  spec: specSchema,
  runs: z.array(planRunSchema),
  /** Files of pictures that will be written: one for each result, or one video. */
  files: z.int(),
  /** Pictures that are made: the results. */
  frames: z.int(),
  /** Frames that are taken, over all shots. */
  taken: z.int().default(0),
  /** Of the results. */
  rate: rateSchema.nullable().default(null),
  /** What is heard, or taken out beside the pictures. */
  sound: plannedSoundSchema.nullable().default(null),
  missing: z.array(frameRangeSchema),
  /** Frames whose picture has another size or other channels than most of the source. */
  differing: z.array(frameRangeSchema).default([]),
  /** Frames that were asked for and are known to be empty or damaged. */
  damaged: z.array(frameRangeSchema).default([]),
  /** Second sources: what pictures are laid over, and where their alpha comes from. */
  others: z.object({ under: otherSchema.optional(), alphaFrom: otherSchema.optional() }).default({}),
  /** Sequences whose channels go into those of the source, in the order of their first channel. */
  joined: z.array(z.object({ root: z.string(), source: plannedSourceSchema })).default([]),
  into: z.preprocess(readInto, intoSchema),
  /** True where no pixel changes and the file is of the wanted format already: bytes are copied. */
  copies: z.boolean(),
  /** What of each picture is read: what is shown; all of the data window; or all of it, to be written with the windows that it had. */
  window: z.enum(['display', 'data', 'kept']).default('display'),
  recipe: recipeSchema.nullable(),
  losses: z.array(lossSchema),
  problems: z.array(problemSchema),
});
export type Plan = z.infer<typeof wholePlanSchema>;

/** Plans of earlier versions made a file of every picture. */
export const planSchema = z.preprocess(
  (value) => (typeof value === 'object' && value && 'files' in value ? { frames: value.files, ...value } : value),
  wholePlanSchema,
);
