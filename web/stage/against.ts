import { alignedFrame, hasFrames, timedOf, type Rate } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useSourceQuery } from '../api/api.ts';
import { useAppSelector } from '../state/store.ts';
import type { Against } from './state.ts';

/** What a source is held against, once it is known. */
export interface Other {
  source: ListedSource;
  against: Against;
  /** The rate that it plays at. */
  rate: Rate | null;
  /** The frame of it that goes with a frame of the first; undefined where none does. */
  partner: (frame: number) => number | undefined;
}

/** The partner of a frame of one source among those of another. */
export function partnerIn(a: ListedSource, b: ListedSource, { alignment }: Against, rate: Rate | null) {
  if (!hasFrames(b)) return () => 0;
  const first = timedOf(a, a.declaration.rate.value);
  const second = timedOf(b, rate);
  return (frame: number) => alignedFrame(alignment, frame, first, second);
}

/** What a source is held against, by the key that it is kept by; null where nothing, or where it is gone. */
export function useOther(source: ListedSource, key: string, wanted: boolean): Other | null {
  const against = useAppSelector(({ stage }) => stage.against[key]);
  const { currentData } = useSourceQuery(against?.id ?? '', { skip: !against || !wanted });
  if (!wanted || !against || !currentData) return null;
  const rate = against.rate ?? currentData.declaration.rate.value;
  return { source: currentData, against, rate, partner: partnerIn(source, currentData, against, rate) };
}
