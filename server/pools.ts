import type { WorkerPool } from '@shale/engine';

/** Processes by what they are for: none of these waits behind another. */
export interface Pools {
  /** Pictures and numbers of frames that somebody looks at. */
  looking: WorkerPool;
  /** Listing folders and reading headers. */
  scanning: WorkerPool;
  /** What is worked out before a run: proofs, measurements, sheets, cadence. */
  trying: WorkerPool;
  /** Jobs, and checks of every frame. */
  working: WorkerPool;
}
