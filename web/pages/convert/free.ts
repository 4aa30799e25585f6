import type { Spec } from '@shale/core';

type Write = Spec['write'];

/**
 * What is wanted of the pixels after a change: what a tried format forced (alpha, depth, transfer) is not taken for a wish; what was
 * changed by itself is.
 * @param free what was wanted before
 */
export function freeAfter(free: Write, before: Write, after: Write): Write {
  // Another spec altogether: all of it is wanted.
  if (after.format !== before.format) return after;
  const wish = <K extends 'alpha' | 'sample' | 'transfer'>(key: K): Write[K] =>
    after[key] === before[key] ? free[key] : after[key];
  return {
    ...after,
    format: after.transfer === before.transfer ? free.format : after.format,
    alpha: wish('alpha'),
    sample: wish('sample'),
    transfer: wish('transfer'),
  };
}
