import { useMemo } from 'react';
import { changesTime, missingFrom, resultsInTime, type Plan } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { takenVersion } from '../api/api.ts';
import { useNamedQuery } from '../api/named.ts';
import type { StripModel } from '../strip/model.ts';
import type { StageSource } from './frames.ts';

/** A plan's results in their own time: to be shown, and as a strip. */
export interface RowOf {
  source: StageSource;
  strip: StripModel;
}

/**
 * The results of a plan one behind another, over all its shots, shown by the frames that they are made of; null where their time is that of
 * the source, and where a clip's fields are worked, whose pictures are no frames of it.
 */
export function useRowOf(source: ListedSource, plan: Plan): RowOf | null {
  const names = plan.shots.map(({ root, source: { folder, name } }) => ({ root, folder, name }));
  const { currentData: found } = useNamedQuery(names, { skip: names.length === 0 });
  return useMemo(() => {
    const isTimed = plan.spec.clip.fields === 'keep' && plan.frames > 0 && changesTime(plan);
    if (!isTimed || (names.length > 0 && found?.length !== names.length)) return null;
    const { count, coverage, cuts, at } = resultsInTime(plan);
    const sources = [source, ...(found ?? [])];
    const nameOf = (shot: number) => (shot === 0 ? source.name : names[shot - 1]!.name);
    const row = {
      key: JSON.stringify([plan.runs, sources.map((one) => one && [one.id, takenVersion(one)])]),
      at: (place: number) => {
        const seen = at(place);
        const shown = seen && sources[seen.shot];
        return shown ? { source: shown, frame: seen.frame } : undefined;
      },
      words: (place: number) => {
        const seen = at(place);
        if (!seen) return `result ${place}: no frame`;
        return `result ${place}: ${nameOf(seen.shot)}, frame ${seen.frame}${seen.mixed ? ', mixed' : ''}`;
      },
    };
    return {
      source: {
        ...source,
        id: `time-${source.id}`,
        kind: 'sequence' as const,
        name: `Results of ${source.name}`,
        coverage,
        row,
      },
      strip: {
        ...{ first: 0, last: count - 1, present: coverage },
        // Between the places before the first and behind the last.
        missing: missingFrom([{ first: -1, last: -1, step: 1 }, ...coverage, { first: count, last: count, step: 1 }]),
        ...{ doubled: [], suspect: [], weights: [] },
        cuts: cuts.map(({ place, shot }) => ({ place, name: nameOf(shot) })),
      },
    };
    // Names are of the plan.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [source, plan, found]);
}
