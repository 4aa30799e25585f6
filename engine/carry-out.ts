import pLimit from 'p-limit';
import { isVideo, resultsOf, ShaleError, type Failure, type Plan, type Written } from '@shale/core';
import type { Places } from './frame.ts';
import type { WorkerPool } from './pool.ts';
import type { VideoProgress } from './video.ts';
import type { WrittenSound } from './sound.ts';
import type { FrameEvent } from './span.ts';

/** A plan on its way. */
export interface Work {
  plan: Plan;
  places: Places;
  /** Marks the temporary files; letters and digits. */
  job: string;
  pool: WorkerPool;
  /** Results that are done or failed already, by index: a job that goes on. */
  settled?: ReadonlySet<number>;
  onWritten: (written: Written) => void;
  onFailed: (failure: Failure, index: number) => void;
  /** Told while a video is made. */
  onVideo?: (progress: VideoProgress) => void;
  /** Told once the sound beside stills is written. */
  onSound?: (sound: WrittenSound) => void;
  signal?: AbortSignal;
}

/** The longest span: what is lost at most when a process ends. */
const longestSpan = 24;

/**
 * Carries a plan out over the pool, span by span. Returns when every result is written or failed, or when stopped.
 * A process that ends in the middle costs its frames in flight a second try, one by one; a frame that ends its process
 * again is failed as `codec-crashed`.
 * @throws ShaleError where nothing more can be written (disk full, folder gone, not writable)
 */
export async function carryOut(work: Work): Promise<void> {
  const { plan, settled = new Set<number>(), signal } = work;
  if (plan.into.kind === 'video') return settled.has(0) ? undefined : carryVideo(work);
  const open: number[] = [];
  for (let index = 0; index < plan.files; index += 1) if (!settled.has(index)) open.push(index);
  const length = spanLength(plan, open.length, work.pool);
  const spans: number[][] = [];
  for (let at = 0; at < open.length; at += length) spans.push(open.slice(at, at + length));

  const stop = new AbortController();
  signal?.addEventListener('abort', () => stop.abort());
  if (signal?.aborted) return;
  // A clip is decoded once a span: one span a process, which works on several of its pictures at once.
  const side = pLimit(isVideo(plan.source) ? work.pool.processes : work.pool.capacity);
  const outcomes = await Promise.allSettled(
    spans.map((indices) =>
      side(async () => {
        if (stop.signal.aborted) return;
        try {
          await runOnce(work, indices, stop.signal);
        } catch (error) {
          stop.abort();
          throw error;
        }
      }),
    ),
  );
  for (const outcome of outcomes) if (outcome.status === 'rejected') throw outcome.reason;
  if (plan.sound && !stop.signal.aborted) {
    const { places, job, pool } = work;
    work.onSound?.(await pool.run('wave', { plan, places, job }));
  }
}

/** How many results go into a span: few, so that little is lost with a process; of a clip whole groups between keys. */
function spanLength({ source }: Plan, open: number, pool: WorkerPool): number {
  const evenly = Math.max(1, Math.ceil(open / (pool.capacity * 3)));
  const { clip } = source.facts ?? {};
  if (!clip) return Math.min(longestSpan, evenly);
  return Math.max(1, Math.min(Math.ceil(open / pool.processes), Math.max(longestSpan, clip.longestGroup * 4)));
}

/** How often a video is begun where processes end in the middle of it. */
const mostTries = 3;

/** Makes a video on one process. @throws ShaleError what forbids it */
async function carryVideo(work: Work): Promise<void> {
  const { plan, places, job, pool, signal } = work;
  for (let tries = 1; ; tries += 1) {
    try {
      const written = await pool.run(
        'video',
        { plan, places, job },
        { onEvent: (event) => work.onVideo?.(event), signal },
      );
      if (written) work.onWritten(written);
      return;
    } catch (error) {
      if (signal?.aborted && crashed(error)) return;
      if (!crashed(error) || tries === mostTries) throw error;
    }
  }
}

const crashed = (error: unknown): boolean => error instanceof ShaleError && error.code === 'worker-crashed';

async function runOnce(work: Work, indices: number[], signal: AbortSignal): Promise<void> {
  const open = new Set(indices);
  const onEvent = (event: FrameEvent) => {
    open.delete(event.kind === 'written' ? event.written.index : event.index);
    if (event.kind === 'written') work.onWritten(event.written);
    else work.onFailed(event.failure, event.index);
  };
  const { plan, places, job, pool } = work;
  try {
    await pool.run('span', { plan, places, job, indices }, { onEvent, signal });
  } catch (error) {
    if (signal.aborted && crashed(error)) return;
    if (!crashed(error)) throw error;
    for (const index of [...open]) {
      if (signal.aborted) return;
      try {
        await pool.run('span', { plan, places, job, indices: [index] }, { onEvent, signal });
      } catch (again) {
        if (!crashed(again)) throw again;
        if (!signal.aborted) work.onFailed(crashFailure(plan, index), index);
      }
    }
  }
}

function crashFailure(plan: Plan, index: number): Failure {
  const [row] = resultsOf(plan, index, index + 1);
  return {
    code: 'codec-crashed',
    fact: `${row!.from ?? plan.source.name} ended the process that read it, twice.`,
    wayOut: 'The file is likely damaged in a way that the codec does not withstand; have it made again.',
    frame: row!.frame,
    sourceFrame: row!.sourceFrame,
    name: row!.to.slice(row!.to.lastIndexOf('/') + 1),
  };
}
