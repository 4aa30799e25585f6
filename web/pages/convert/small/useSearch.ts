import { useEffect, useState } from 'react';
import type { Plan, Problem, Spec } from '@shale/core';
import type { ListedSource, SearchView } from '@shale/contract';
import {
  useContinueSearchMutation,
  useSearchQuery,
  useStartSearchMutation,
  useStopSearchMutation,
} from '../../../api/searches.ts';
import { wishOf } from '../useConvert.ts';

/** Pixels of all pictures up to which a search begins by itself: a second's work or two for each try. */
const quick = 40_000_000;

/** Milliseconds between two looks at a search at work. */
const every = 400;

/** Whether a plan is quick enough for its search to begin whenever it is another. */
export const beginsByItself = (plan: Plan, pixels: number): boolean => plan.frames * pixels <= quick;

/**
 * The search of what is wanted: begun once that rests, told as it goes; the one before is stopped.
 * @param spec once it rests; null where it may not run
 */
export function useSearch(source: ListedSource, spec: Spec | null, byItself: boolean) {
  const [start, { error: refused, isLoading: starting }] = useStartSearchMutation();
  const [stop] = useStopSearchMutation();
  const [goOn] = useContinueSearchMutation();
  const [begun, setBegun] = useState<{ id: string; of: string | null } | null>(null);
  const of = spec && wishOf(spec);
  const isCurrent = begun?.of === of;
  const id = begun?.id;
  const { data, error: lost, refetch } = useSearchQuery(id ?? '', { skip: !id, refetchOnMountOrArgChange: true });
  const view: SearchView | undefined = data?.id === id ? data : undefined;
  const isAtWork = view?.state === 'searching';
  useEffect(() => {
    if (!isAtWork) return undefined;
    const timer = setInterval(() => void refetch(), every);
    return () => clearInterval(timer);
  }, [isAtWork, refetch]);
  const begin = async () => {
    if (!spec) return;
    const answer = await start({ source: source.id, spec });
    if (!('data' in answer) || !answer.data) return;
    const next = answer.data.id;
    // Nobody looks at the one before any more.
    if (begun && begun.id !== next && isAtWork) void stop(begun.id);
    setBegun({ id: next, of });
  };
  useEffect(() => {
    if (!spec || !byItself || isCurrent) return undefined;
    const timer = setTimeout(() => void begin());
    return () => clearTimeout(timer);
    // oxlint-disable-next-line react/exhaustive-deps -- it follows what is wanted, and nothing else
  }, [of, byItself]);
  return {
    view,
    /** Whether it is of what is wanted now. */
    isCurrent,
    starting,
    problem: (isCurrent ? (lost as Problem | undefined) : undefined) ?? (refused as Problem | undefined),
    begin,
    stop: () => {
      if (view) void stop(view.id).then(refetch);
    },
    goOn: () => {
      if (view) void goOn(view.id).then(refetch);
    },
  };
}
