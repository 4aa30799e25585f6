import type { Estimate, Plan, Problem, Written } from '@shale/core';
import type { Job } from '@shale/contract';
import type { JournalLine } from './journal.ts';

/** What of a plan is there already and stays. */
export interface Keeps {
  /** Names that exist and do not stand in its way: those that stay, and those that are made again in place of what is there. */
  names: ReadonlySet<string>;
  written: readonly Written[];
  /** Results, by their place, that take the place of what an earlier job wrote. */
  again: readonly number[];
  /** Checksum of the sound that an earlier job wrote beside stills. */
  sound?: string;
}

/** A plan that is to be carried out. */
export interface ToRun {
  source: string;
  plan: Plan;
  estimate?: Estimate;
  /** Which output of a batch it makes. */
  output?: number;
  keeps?: Keeps;
}

/** A plan that was not queued, by its place among those that were to be, and why. */
export interface Refused {
  at: number;
  problem: Problem;
}

/** What the journal of its job begins with. */
export const linesOf = ({ estimate, keeps }: ToRun): JournalLine[] => [
  ...(estimate ? [{ estimate }] : []),
  ...(keeps && keeps.again.length > 0 ? [{ again: [...keeps.again] }] : []),
  ...(keeps?.sound === undefined ? [] : [{ soundBefore: keeps.sound }]),
  ...(keeps?.written ?? []).map((written) => ({ written, kept: true as const })),
];

/** Work that holds folders and names. */
export interface Busy {
  /** Of the job; empty where it is not queued yet. */
  id: string;
  plan: Plan;
  state: Job['state'];
}
