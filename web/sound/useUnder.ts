import { useMemo } from 'react';
import { laneOf, type Lane, type Problem, type Rate, type SoundFacts, type Under } from '@shale/core';
import { useSoundQuery } from '../api/api.ts';
import type { Tape } from './player.ts';
import { tapeOf } from './tape.ts';

/** A sound under a row of frames, ready to be heard and drawn. */
export interface SoundUnder {
  source: string;
  stream: number | null;
  /** How it lies: as {@link Under}. */
  from: Under['from'];
  later: number;
  facts: SoundFacts;
  lane: Lane;
  tape: Tape;
}

/** Measures the sound that lies under frames and brings it to samples. */
export function useUnder(
  under: (Under & { modified: number }) | null,
  rate: Rate | null,
): { sound: SoundUnder | null; comes: boolean; problem?: Problem } {
  const { source = '', stream = null, modified = 0, from, later } = under ?? {};
  const {
    currentData: facts,
    error,
    isFetching,
  } = useSoundQuery({ id: source, stream: stream ?? undefined, modified }, { skip: !under });
  const sound = useMemo(
    () =>
      facts && rate && from && later !== undefined
        ? {
            source,
            stream,
            from,
            later,
            facts,
            lane: laneOf({ from, later }, facts, rate),
            tape: tapeOf(source, stream, facts),
          }
        : null,
    // Rates and fractions are new objects with every render: their numbers say when they change.
    // oxlint-disable-next-line react/exhaustive-deps
    [facts, source, stream, from?.num, from?.den, later, rate?.num, rate?.den],
  );
  return { sound, comes: isFetching, ...(error ? { problem: error as Problem } : {}) };
}
