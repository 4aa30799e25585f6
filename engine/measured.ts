import type { PixelCounts, Problem } from '@shale/core';

/** What a trial over some frames showed. */
export interface Measured {
  /** Source frames that were looked at. */
  frames: number[];
  counts: PixelCounts;
  /** Mean bytes of a result and mean seconds of work on one core. */
  bytes: number;
  seconds: number;
  /** Frames that could not be read. */
  problems: Problem[];
}
