import { z } from 'zod';
import { printCoverage } from '../numbering/ranges.ts';
import type { Source } from '../numbering/source.ts';
import { stemOf } from '../naming/template.ts';
import { problemOf, ShaleError, type Problem } from '../errors.ts';
import { digestOf, digestOfPlan } from '../plan/digest.ts';
import type { Given } from '../plan/given.ts';
import { writtenAs } from '../plan/into.ts';
import { makePlan } from '../plan/make.ts';
import { lossSchema, problemSchema, type Plan } from '../plan/plan.ts';
import type { Declaration } from '../spec/declaration.ts';
import { ownIn, specFor, type Batch } from './batch.ts';
import { collisionsAmong } from './collisions.ts';

const count = z.int().min(0);

/** A source of a batch. */
export interface BatchSource {
  id: string;
  root: string;
  source: Source;
  declaration: Declaration;
}

/** One source in one output. */
export interface BatchPart {
  source: string;
  output: number;
  plan: Plan;
}

/** What a list tells of a part: no frame mapping, so that ten thousand of them stay small. */
export const partSchema = z.object({
  source: z.string(),
  output: count,
  /** Pictures that are made, and files that are written. */
  frames: count,
  files: count,
  into: z.object({
    root: z.string(),
    folder: z.string(),
    pattern: z.string(),
    /** What names begin with. */
    stem: z.string(),
    isVideo: z.boolean(),
  }),
  /** Numbers that are asked for and are not there, as ranges: `37,40-42`. */
  missing: z.string(),
  /** Whether the source has something otherwise than the rest. */
  differs: z.boolean(),
  problems: z.array(problemSchema),
  /** Those that are more than a note. */
  losses: z.array(lossSchema),
  /** Of its plan: `digestOfPlan`. */
  digest: z.string(),
});
export type Part = z.infer<typeof partSchema>;

/** Sums over the parts that may run, without what stays. */
export const sumsSchema = z.object({
  sources: count,
  /** Sources of which every part may run. */
  ready: count,
  files: count,
  videos: count,
  frames: count,
});
export type Sums = z.infer<typeof sumsSchema>;

/**
 * Works out one part. A spec that cannot be one is a problem of the part, not of the batch.
 * @param given what the spec names beside its source
 */
export function planPart(
  { id, root, source, declaration }: BatchSource,
  batch: Batch,
  output: number,
  given: Given,
): Plan {
  try {
    return makePlan(root, source, declaration, specFor(batch, id, output), given);
  } catch (error) {
    if (!(error instanceof ShaleError)) throw error;
    const common = makePlan(root, source, declaration, batch.outputs[output]!, given);
    return { ...common, problems: [problemOf(error), ...common.problems] };
  }
}

/**
 * What a list tells of parts: each with what forbids it, the names that another of them writes included.
 * @param more what else forbids a part: names that are there already
 */
export function partsOf(
  parts: readonly BatchPart[],
  batch: Batch,
  more: ReadonlyMap<number, Problem[]> = new Map(),
): Part[] {
  const collisions = collisionsAmong(parts);
  return parts.map(({ source, output, plan }, at) => {
    const { into } = plan;
    const same = collisions.get(at);
    return {
      source,
      output,
      frames: plan.frames,
      files: plan.files,
      into: {
        ...{ root: into.root, folder: into.folder, pattern: writtenAs(into), isVideo: into.kind === 'video' },
        stem: into.kind === 'sequence' ? stemOf(into.pattern) : into.stem,
      },
      missing: printCoverage(plan.missing),
      differs: ownIn(batch, source, output) !== undefined,
      problems: [...plan.problems, ...(same ? [same] : []), ...(more.get(at) ?? [])],
      losses: plan.losses.filter(({ severity }) => severity !== 'note'),
      digest: digestOfPlan(plan),
    };
  });
}

/** Ids of the sources of which every part may run. */
export function readyIn(parts: readonly Part[]): Set<string> {
  const ready = new Set(parts.map(({ source }) => source));
  for (const { source, problems } of parts) if (problems.length > 0) ready.delete(source);
  return ready;
}

/**
 * What runs if the batch is begun: sources with a part that may not run wait whole.
 * @param kept how many files of a part stay as they are, by its place
 */
export function sumsOf(parts: readonly Part[], kept: (at: number) => number = () => 0): Sums {
  const ready = readyIn(parts);
  const sources = new Set(parts.map(({ source }) => source)).size;
  const sums: Sums = { sources, ready: ready.size, files: 0, videos: 0, frames: 0 };
  for (const [at, { source, files, frames, into }] of parts.entries()) {
    if (!ready.has(source)) continue;
    const made = files - kept(at);
    if (into.isVideo) sums.videos += made;
    else sums.files += made;
    sums.frames += into.isVideo ? (made > 0 ? frames : 0) : frames - kept(at);
  }
  return sums;
}

/** What tells what a batch would do from anything else that it might: of the parts that may run. */
export function digestOfBatch(parts: readonly Part[]): string {
  const ready = readyIn(parts);
  return digestOf(parts.flatMap(({ source, output, digest }) => (ready.has(source) ? [[source, output, digest]] : [])));
}
