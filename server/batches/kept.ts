import { coverageOf, frameOfName, printCoverage, resultsOf, type Plan } from '@shale/core';
import { namesStanding } from '@shale/engine';
import type { Workshop } from '../workshop.ts';
import { placesOf } from '../jobs/places.ts';
import type { Keeps } from '../jobs/toRun.ts';

/** What of a part is there already. */
export interface Kept {
  keeps: Keeps | undefined;
  /** Numbers of names that are there and that the plan does not write any more. */
  leftOver: string;
}

export const noneKept: Kept = { keeps: undefined, leftOver: '' };

/**
 * What of a plan earlier jobs have made and is as it was: it stays, and so do the others' names that are made again in its place.
 * @param names all that the folder of its results holds
 */
export async function keptOf(plan: Plan, names: readonly string[], { jobs, roots, pools }: Workshop): Promise<Kept> {
  if (names.length === 0) return noneKept;
  const leftOver = leftOverAmong(plan, names);
  const earlier = await jobs.records.madeBefore(plan);
  if (earlier.length === 0) return { keeps: undefined, leftOver };
  const places = await placesOf(plan, roots);
  const standing = await pools.trying.run('standing', { plan, places, earlier });
  const { kept, again } = standing;
  if (kept.length === 0 && again.length === 0 && !standing.sound) return { keeps: undefined, leftOver };
  const keeps = {
    names: namesStanding(standing),
    written: kept,
    again: again.map(({ index }) => index),
    ...(standing.sound ? { sound: standing.sound.sha256 } : {}),
  };
  return { keeps, leftOver };
}

function leftOverAmong(plan: Plan, names: readonly string[]): string {
  const { into } = plan;
  if (into.kind !== 'sequence') return '';
  const wanted = new Set(resultsOf(plan, 0, plan.frames).map(({ frame }) => frame));
  const there = names.flatMap((name) => frameOfName(into.pattern, name) ?? []);
  return printCoverage(coverageOf(there.filter((frame) => !wanted.has(frame)).sort((a, b) => a - b)));
}
