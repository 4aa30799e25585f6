import type { Facts, Problem, Rate } from '@shale/core';

/** What a header read gave: facts, of a clip what its pictures weigh too, or why there are none. */
export type Probed =
  | { facts: Facts; weights?: number[]; damaged?: Problem }
  | { seconds?: Rate; more: [string, string][] }
  | { problem: Problem };
