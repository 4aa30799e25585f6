import pLimit from 'p-limit';
import {
  isVideo,
  resultsOf,
  rowsOf,
  ShaleError,
  type Failure,
  type Plan,
  type PlanRow,
  type ReadFile,
  type Written,
} from '@shale/core';
import { sweepHalves, sweepPieces } from './ending.ts';
import type { Places } from './frame.ts';
import { crashed } from './lost.ts';
import type { WorkerPool } from './pool.ts';
import type { VideoProgress } from './encodeOnce.ts';
import type { WrittenSound } from './sound.ts';
import type { FrameEvent } from './span.ts';
import type { Seat } from './together.ts';
import { Expectations, partsOf, takeFolders, type Expected, type Stamps } from './stamps.ts';

/** A plan on its way. */
export interface Work {
  plan: Plan;
  places: Places;
  /** Marks the temporary files; letters and digits. */
  job: string;
  pool: WorkerPool;
  /** Results that are done or failed already, by index: a job that goes on. */
  settled?: ReadonlySet<number>;
  /** Whether the job may go on where it stops: the whole pieces of its video stay for it then. */
  goesOn?: boolean;
  /** What its files were when the job began; they are looked at now where it is absent. */
  stamps?: Stamps;
  /** Told of them once they were looked at. */
  onStamps?: (stamps: Stamps) => void | Promise<void>;
  /** Results that are made anew in place of those that the job wrote before. */
  again?: readonly number[];
  /** Checksum of a sound that was written beside stills before: a new one takes its place. */
  soundBefore?: string;
  /** What goes before other work of the pool: smaller first. */
  rank?: number;
  /** Its place among jobs that are made of the same pictures. */
  seat?: Seat;
  /** Where readings of a folder of a root are kept, by which it is known what a plan was made of. */
  readingsOf?: (root: string, folder: string) => string | undefined;
  /** Whether source files that changed since the plan are taken and told; else what is made of one fails. */
  takesChanged?: boolean;
  /** Results of which they are taken in any case: they failed, and may have been mended. */
  retried?: ReadonlySet<number>;
  onWritten: (written: Written) => void;
  onFailed: (failure: Failure, index: number) => void;
  /** Told while a video is made. */
  onVideo?: (progress: VideoProgress) => void;
  /** Told once the sound beside stills is written. */
  onSound?: (sound: WrittenSound) => void;
  /** Told of the clips and the sound that all results are made of, once nothing more is read of them. */
  onMedia?: (files: ReadFile[]) => void;
  signal?: AbortSignal;
}

/** The longest span: what is lost at most when a process ends. */
const longestSpan = 24;

/**
 * Carries a plan out over the pool, span by span. Returns when every result is written or failed, or when stopped.
 * A process that ends in the middle costs its frames in flight a second try, one by one; a frame that ends its process
 * again is failed as `codec-crashed`. Half files of the job do not stay.
 * @throws ShaleError where nothing more can be made (disk full, a folder gone, not writable), and before anything is made where the
 * sources are not what was planned
 */
export async function carryOut(work: Work): Promise<void> {
  const { plan, places, job, pool, signal } = work;
  try {
    const folders = takeFolders(plan, places);
    const readings = partsOf(plan, places).map(({ id, source }) => work.readingsOf?.(id, source.folder) ?? null);
    const takes = work.takesChanged ?? false;
    const stamps = work.stamps ?? (await pool.run('stamps', { plan, places, readings, takes }, { signal }));
    if (!work.stamps) await work.onStamps?.(stamps);
    const expectations = new Expectations(stamps, folders);
    const isWhole = await (plan.into.kind === 'video' ? carryVideo : carryStills)(work, expectations);
    if (!isWhole || signal?.aborted) return;
    const expected = expectations.of(plan, places, mediaRows(plan), () => takes);
    if (plan.sound && plan.into.kind !== 'video')
      work.onSound?.(await pool.run('wave', { plan, places, job, expected, before: work.soundBefore }, { signal }));
    const media = await pool.run('media', { plan, places, expected }, { signal });
    if (media.length > 0) work.onMedia?.(media);
  } catch (error) {
    // What a stop broke off is no failure.
    if (!(signal?.aborted && crashed(error))) throw error;
  } finally {
    sweepHalves(places.target, plan.into.folder, job);
    if (!work.goesOn) sweepPieces(places.target, plan.into.folder, job);
  }
}

/** Whether files that changed are taken for a result. */
const takesOf = ({ takesChanged, retried }: Work, index: number): boolean =>
  (takesChanged ?? false) || (retried?.has(index) ?? false);

/** A row of each shot: with it go the files that all of its rows share. */
const mediaRows = (plan: Plan): PlanRow[] =>
  [...new Map(plan.runs.map((run) => [run.shot ?? 0, run])).values()]
    .filter(({ kind }) => kind === 'write')
    .flatMap((run) => rowsOf({ ...plan, runs: [run] }, 0, 1));

/** @returns whether nothing is left to do */
async function carryStills(work: Work, expectations: Expectations): Promise<boolean> {
  const { plan, places, settled = new Set<number>(), signal } = work;
  const open: number[] = [];
  for (let index = 0; index < plan.files; index += 1) if (!settled.has(index)) open.push(index);
  const length = spanLength(plan, open.length, work.pool);
  const spans: number[][] = [];
  for (let at = 0; at < open.length; at += length) spans.push(open.slice(at, at + length));

  const stop = new AbortController();
  const stopAll = () => stop.abort();
  signal?.addEventListener('abort', stopAll);
  if (signal?.aborted) return false;
  // A clip is decoded once a span: one span a process, which works on several of its pictures at once.
  const side = pLimit(isVideo(plan.source) ? work.pool.processes : work.pool.capacity);
  try {
    const outcomes = await Promise.allSettled(
      spans.map((indices) =>
        side(async () => {
          if (stop.signal.aborted) return;
          try {
            const rows = indices.map((index) => resultsOf(plan, index, index + 1)[0]!);
            const indexOf = new Map(rows.map((row, at) => [row, indices[at]!]));
            const expected = expectations.of(plan, places, rows, (row) => takesOf(work, indexOf.get(row)!));
            await runOnce(work, indices, expected, stop.signal);
          } catch (error) {
            stop.abort();
            throw error;
          }
        }),
      ),
    );
    for (const outcome of outcomes) if (outcome.status === 'rejected') throw outcome.reason;
    return !stop.signal.aborted;
  } finally {
    signal?.removeEventListener('abort', stopAll);
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

/** Makes a video on one process. @returns whether it is made @throws ShaleError what forbids it */
async function carryVideo(work: Work, expectations: Expectations): Promise<boolean> {
  const { plan, places, job, pool, signal } = work;
  if (work.settled?.has(0)) return true;
  const expected = expectations.of(plan, places, resultsOf(plan, 0, plan.frames), () => takesOf(work, 0));
  for (let tries = 1; ; tries += 1) {
    try {
      const written = await pool.run(
        'video',
        { plan, places, job, expected, again: (work.again ?? []).length > 0 },
        { onEvent: (event) => work.onVideo?.(event), signal, asker: job },
      );
      if (written) work.onWritten(written);
      return written !== undefined;
    } catch (error) {
      if (signal?.aborted || !crashed(error) || tries === mostTries) throw error;
    }
  }
}

const codeOf = (error: unknown): string => (error instanceof ShaleError ? error.code : '');

async function runOnce(work: Work, indices: number[], expected: Expected, signal: AbortSignal): Promise<void> {
  const open = new Set(indices);
  const onEvent = (event: FrameEvent) => {
    open.delete(event.kind === 'written' ? event.written.index : event.index);
    if (event.kind === 'written') work.onWritten(event.written);
    else work.onFailed(event.failure, event.index);
  };
  const { plan, places, job, pool, again: all = [] } = work;
  const span = (some: number[]) => {
    const again = all.filter((index) => some.includes(index));
    const { rank } = work;
    return pool.run(
      'span',
      { plan, places, job, indices: some, expected, again },
      { onEvent, signal, asker: job, ...(rank === undefined ? {} : { rank }) },
    );
  };
  try {
    await (work.seat ? work.seat.meet(indices, () => span(indices), signal) : span(indices));
  } catch (error) {
    if (!crashed(error)) throw error;
    for (const index of [...open]) await oneByOne(index);
  }

  /** A frame by itself; one whose process had to give way for another's sake is simply made again. */
  async function oneByOne(index: number): Promise<void> {
    while (!signal.aborted) {
      try {
        return await span([index]);
      } catch (error) {
        if (!crashed(error)) throw error;
        if (codeOf(error) === 'worker-replaced' || signal.aborted) continue;
        return work.onFailed(crashFailure(plan, index), index);
      }
    }
  }
}

function crashFailure(plan: Plan, index: number): Failure {
  const [row] = resultsOf(plan, index, index + 1);
  return {
    code: 'codec-crashed',
    fact: `${row!.from ?? plan.source.name} crashed the process that read it, twice.`,
    wayOut: 'The file is probably damaged in a way that crashes the codec; render it again.',
    frame: row!.frame,
    sourceFrame: row!.sourceFrame,
    name: row!.to.slice(row!.to.lastIndexOf('/') + 1),
  };
}
