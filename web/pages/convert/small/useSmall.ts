import { useState } from 'react';
import { planGiven, shippedReceivers, sizeOfPlan, videoWords, codecRecord, type Plan, type Spec } from '@shale/core';
import type { ListedSource, SearchView } from '@shale/contract';
import { useReceiver } from '../../../names/ReceiverCard.tsx';
import { useMeant, type usePlanned } from '../useConvert.ts';
import { useHandOver } from './HandOver.tsx';
import { beginsByItself, useSearch } from './useSearch.ts';

/** Which try is taken: the one that was chosen, the best, or the smallest where none is within the limit; null before there is one. */
export function takenOf(view: SearchView | undefined, given: number | null): number | null {
  if (!view || view.tries.length === 0) return null;
  const { tries, best } = view;
  const chosen = given === null ? -1 : tries.findIndex((one) => one.given === given);
  if (chosen >= 0) return chosen;
  return best ?? tries.reduce((least, one, at) => (one.bytes < tries[least]!.bytes ? at : least), 0);
}

/** The counter of the upload desk for a receiver: there is one for each of small moving pictures that ships. */
const counterOf = (receiver: ReturnType<typeof useReceiver>): string | undefined =>
  receiver && receiver.receiver.fileBytes !== null && Object.hasOwn(shippedReceivers, receiver.id)
    ? receiver.id
    : undefined;

/** A small moving picture on its page: the search, the try that is taken, the one beside it, its receiver and the desk. */
export function useSmall(
  source: ListedSource,
  { spec, change }: { spec: Spec; change: (spec: Spec) => void },
  plan: Plan,
  { rested, settled }: Pick<ReturnType<typeof usePlanned>, 'rested' | 'settled'>,
) {
  const [held, setHeld] = useState<{ search: string; at: number } | null>(null);
  const size = sizeOfPlan(plan);
  const byItself = beginsByItself(plan, (size?.width ?? 0) * (size?.height ?? 0));
  const search = useSearch(source, settled ? rested : null, byItself);
  const { view } = search;
  const taken = takenOf(view, spec.video.given);
  // One of another search, or the taken one itself, is not held beside it.
  const beside = held && held.search === view?.id && held.at !== taken && view.tries[held.at] ? held.at : null;
  const meant = useMeant(source, spec, plan);
  const receiver = useReceiver({ source: source.id });
  const counter = counterOf(receiver);
  const one = taken === null ? undefined : view!.tries[taken];
  const { write } = plan.spec;
  const record = codecRecord(write.format)!;
  return {
    search,
    mayRun: settled,
    taken,
    one,
    beside,
    setBeside: (at: number | null) => setHeld(at === null ? null : { search: view!.id, at }),
    take: (at: number) => {
      change({ ...spec, video: { ...spec.video, given: view!.tries[at]!.given } });
      if (beside === at) setHeld({ search: view!.id, at: taken! });
    },
    meant,
    breaches: meant.breaches ?? [],
    counter,
    handing: useHandOver(view, taken, counter),
    /** What the taken try is, in words. */
    words:
      one &&
      `${record.words}, ${videoWords(write.format, { ...planGiven(plan, one.given).plan.spec.video, limit: null })}`,
    perSecond: record.animation?.perSecond,
    isOver: one !== undefined && view!.limit !== null && one.bytes > view!.limit,
  };
}
