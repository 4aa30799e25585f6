import { problemOf, ShaleError, type Problem } from '../errors.ts';

/** What a stage of a plan comes to, and what forbids the run; there is always a value, so that all problems are told at once. */
export interface Staged<T> {
  value: T;
  problems: Problem[];
}

/** What some work gives; a refusal of it is noted among the problems, and something else taken. */
export function refusing<T>(problems: Problem[], work: () => T, otherwise: T): T {
  try {
    return work();
  } catch (error) {
    if (!(error instanceof ShaleError)) throw error;
    problems.push(problemOf(error));
    return otherwise;
  }
}
