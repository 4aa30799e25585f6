import { useEffect, useState } from 'react';
import type { Plan, Problem, Spec } from '@shale/core';
import type { ListedSource, SearchView } from '@shale/contract';
import {
  useContinueSearchMutation,
  useSearchQuery,
  useStartSearchMutation,
  useStopSearchMutation,
  useTryOneMutation,
} from '../../../api/api.ts';

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
  const [one] = useTryOneMutation();
  const [begun, setBegun] = useState<{ id: string; of: string } | null>(null);
  const of = JSON.stringify(spec && { ...spec, video: { ...spec.video, given: null } });
  const isCurrent = begun?.of === of;
  const [polls, setPolls] = useState(false);
  const { data, error: lost } = useSearchQuery(begun?.id ?? '', {
    skip: !begun,
    pollingInterval: polls ? every : 0,
    refetchOnMountOrArgChange: true,
  });
  const view: SearchView | undefined = data?.id === begun?.id ? data : undefined;
  const isAtWork = view?.state === 'searching';
  useEffect(() => setPolls(begun !== null && (view === undefined || isAtWork)), [begun, view, isAtWork]);
  const begin = async () => {
    if (!spec) return;
    const answer = await start({ source: source.id, spec });
    if (!('data' in answer) || !answer.data) return;
    const { id } = answer.data;
    // Nobody looks at the one before any more.
    if (begun && begun.id !== id && isAtWork) void stop(begun.id);
    setBegun({ id, of });
    setPolls(true);
  };
  useEffect(() => {
    if (spec && byItself && !isCurrent) void begin();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- it follows what is wanted, and nothing else
  }, [of, byItself]);
  return {
    view,
    /** Whether it is of what is wanted now. */
    isCurrent,
    starting,
    problem: (isCurrent ? (lost as Problem | undefined) : undefined) ?? (refused as Problem | undefined),
    begin,
    stop: () => view && void stop(view.id),
    goOn: () => {
      if (view) void goOn(view.id).then(() => setPolls(true));
    },
    tryOne: (given: number) => {
      if (view) void one({ search: view.id, given }).then(() => setPolls(true));
    },
  };
}
