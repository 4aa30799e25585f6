import { batchOf, printSentence, sentenceOfBatch, type StandingOrder } from '@shale/core';
import type { ListedSource, StandingView } from '@shale/contract';
import type { LookRow, StandingRow } from '../store/standing.ts';

/** An order at hand. */
export interface Live {
  row: StandingRow;
  looks: Map<string, LookRow>;
  /** Sources that were there at the last look. */
  present: Set<string>;
  problem: string | null;
  batch: string | null;
}

export const noCounts = (): StandingView['counts'] => ({ begins: 0, waits: 0, left: 0, there: 0 });

export const named = ({ id, folder, name }: ListedSource) => ({ id, folder, name });

/** What is made of each source, read aloud. */
export const sentenceOfOrder = ({ outputs }: StandingOrder): string =>
  printSentence(sentenceOfBatch(batchOf(...outputs), 'each source'));

/** An order as it is told. */
export function viewOf({ row, looks, present, problem, batch }: Live): StandingView {
  const counts = noCounts();
  for (const { source, kind } of looks.values())
    if (present.has(source) && kind in counts) counts[kind as keyof typeof counts] += 1;
  return {
    ...{ id: row.id, edition: row.edition, order: row.order, paused: row.paused, looked: row.looked, problem, batch },
    sentence: sentenceOfOrder(row.order),
    counts,
    created: new Date(row.created).toISOString(),
  };
}
