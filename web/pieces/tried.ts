import { problemOf } from '@shale/core';

/** What a work gives, or what is wrong in words. */
export function tried<T>(work: () => T): { value: T; fault?: undefined } | { value?: undefined; fault: string } {
  try {
    return { value: work() };
  } catch (error) {
    const { fact, wayOut } = problemOf(error);
    return { fault: `${fact} ${wayOut}` };
  }
}
