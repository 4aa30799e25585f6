import { useEffect, useRef, useState } from 'react';
import type { Batch, Problem } from '@shale/core';
import type { TriedPart } from '@shale/contract';
import { useTryBatchMutation } from '../../../api/api.ts';

/** Sources that are tried by one request: few, so that it is seen how far it is. */
const together = 6;

/** What trying one result of each source showed. */
export interface Tried {
  /** By source. */
  bySource: ReadonlyMap<string, TriedPart[]>;
  /** Sources that were tried, of how many; null where nothing is tried. */
  progress: { done: number; of: number } | null;
  isRunning: boolean;
  error: Problem | undefined;
}

const nothing: Tried = { bySource: new Map(), progress: null, isRunning: false, error: undefined };

/** Makes one result of each source in each output, read back and not kept; forgotten once something else is wanted. */
export function useTried(ids: readonly string[], batch: Batch) {
  const [tried, setTried] = useState<Tried>(nothing);
  const [ask] = useTryBatchMutation();
  const stop = useRef<AbortController | null>(null);
  // What was tried of another wish tells nothing of this one; nobody waits once the page is left.
  useEffect(
    () => () => {
      stop.current?.abort();
      setTried(nothing);
    },
    [batch],
  );
  const run = async () => {
    stop.current?.abort();
    const mine = new AbortController();
    stop.current = mine;
    const found = new Map<string, TriedPart[]>();
    setTried({ ...nothing, progress: { done: 0, of: ids.length }, isRunning: true });
    for (let at = 0; at < ids.length; at += together) {
      const asked = ask({ sources: ids.slice(at, at + together), batch });
      mine.signal.addEventListener('abort', () => asked.abort());
      const answer = await asked;
      if (mine.signal.aborted) return;
      for (const one of answer.data ?? []) found.set(one.source, [...(found.get(one.source) ?? []), one]);
      const done = Math.min(ids.length, at + together);
      const error = answer.error as Problem | undefined;
      const isRunning = !error && done < ids.length;
      setTried({ bySource: new Map(found), progress: { done, of: ids.length }, isRunning, error });
      if (error) return;
    }
  };
  return {
    ...tried,
    run,
    stop: () => {
      stop.current?.abort();
      setTried((now) => ({ ...now, isRunning: false }));
    },
  };
}

/** What trying showed, in a few words; undefined where nothing was tried. */
export function triedWords({ bySource, progress, isRunning }: Tried): { words: string; isWell: boolean } | undefined {
  if (!progress) return undefined;
  if (isRunning) return { words: `Trying, ${progress.done} of ${progress.of}`, isWell: true };
  const parts = [...bySource.values()].flat();
  const made = parts.filter(({ sourceFrame, problem }) => sourceFrame !== null && !problem);
  const failed = parts.filter(({ problem }) => problem);
  const off = made.filter(({ check }) => check === 'differs');
  if (failed.length > 0) return { words: `${made.length} tried, ${failed.length} failed`, isWell: false };
  const most = Math.max(0, ...off.map((one) => one.most));
  const words = off.length === 0 ? 'read back the same' : `read back, off by ${most} at the most`;
  return { words: `${made.length} tried, ${words}`, isWell: true };
}
