import {
  pieceLength,
  problemOf,
  resultsOf,
  ShaleError,
  summarise,
  type Plan,
  type Problem,
  type Written,
} from '@shale/core';
import { carryOut, shaleVersion, type Places, type Seat, type WorkerPool } from '@shale/engine';
import type { Store } from '../store/store.ts';
import { patiently } from '../store/away.ts';
import type { JournalLine } from './journal.ts';
import { priorityRank, type RunningJob } from './running.ts';

/** How often a running job is told of, in milliseconds. */
const tellEvery = 200;

/** What carrying a job out stands on. */
export interface Ground {
  store: Store;
  pool: WorkerPool;
  /** Where its plan lies on this machine. @throws ShaleError where it may not be written, or leads out */
  places: (plan: Plan) => Promise<Places>;
  /** Its place among jobs that are made of the same pictures. */
  seat: Seat | undefined;
  /** Where readings of a folder of a root are kept. */
  readingsOf: (root: string, folder: string) => string | undefined;
  /** Tells pages of it. */
  tell: (job: RunningJob) => void;
  /** Keeps its row. */
  keep: (job: RunningJob) => Promise<void>;
  /** Results since the server's start, added to. */
  sums: { written: number; failed: number };
  /** Whether the server is ending. */
  closing: () => boolean;
}

/** Carries a job on until it is done, stopped or cannot go on; its row says which. */
export async function carryOn(job: RunningJob, stop: AbortController, ground: Ground): Promise<void> {
  const { row, plan, journal, log } = job;
  let told = 0;
  const progress = () => {
    if (Date.now() - told < tellEvery) return;
    told = Date.now();
    ground.tell(job);
  };
  let unnoted: Problem | undefined;
  // What cannot be noted down is not gone on with; it is noted first when the job goes on.
  const note = (line: JournalLine) =>
    void journal.add(line).catch((error: unknown) => {
      job.unnoted.push(line);
      unnoted ??= problemOf(error);
      stop.abort();
    });
  try {
    log.note('info', row.started ? goesOnWords(job) : 'begins');
    row.state = 'running';
    row.started ??= new Date().toISOString();
    await ground.keep(job);
    ground.tell(job);
    await journal.open();
    const places = await ground.places(plan);
    job.start();
    await carryOut({
      plan,
      places,
      job: row.id,
      pool: ground.pool,
      rank: priorityRank[row.priority],
      ...(ground.seat ? { seat: ground.seat } : {}),
      goesOn: true,
      settled: new Set(job.settled),
      again: [...job.again],
      ...(job.soundBefore === undefined ? {} : { soundBefore: job.soundBefore }),
      stamps: await journal.stamps(),
      onStamps: (stamps) => journal.keepStamps(stamps),
      readingsOf: ground.readingsOf,
      takesChanged: job.takesChanged,
      retried: job.retried,
      signal: stop.signal,
      onVideo: (video) => {
        job.video = video;
        progress();
      },
      onSound: (sound) => note({ sound }),
      onMedia: (media) => note({ media }),
      onWritten: (written) => {
        note({ written });
        job.addWritten(written);
        ground.sums.written += 1;
        progress();
      },
      onFailed: (failure, index) => {
        note({ failed: failure, index });
        log.note('error', `${failure.name}: ${failure.fact}`);
        job.addFailed(failure, index);
        ground.sums.failed += 1;
        progress();
      },
    });
    job.pause();
    await journal.close();
    if (unnoted) throw new ShaleError(unnoted);
    if (job.settled.size === plan.files) await finish(job, places, ground);
    else if (!ground.closing()) {
      row.state = 'stopped';
      log.note('info', stoppedWords(job));
    }
  } catch (error) {
    job.pause();
    if (!ground.closing()) {
      row.state = 'stopped';
      row.problem = problemOf(error);
      log.note('error', `stopped by an error: ${row.problem.fact}`);
    }
  } finally {
    job.videoRests();
    await journal.close();
    await ground.keep(job);
    if (!ground.closing()) ground.tell(job);
  }
}

/** What a job goes on with. */
function goesOnWords({ plan, video, settled }: RunningJob): string {
  if (plan.into.kind !== 'video') return `goes on: ${settled.size} of ${plan.files} are settled`;
  if (video) return `goes on after ${video.safe} of ${plan.frames} pictures`;
  // A server that ended in the middle could not note how far it was.
  return lengthOf(plan) === null ? 'starts again' : 'continues after the complete part';
}

/** Pictures of a piece of a plan's video; null where it is encoded in one. */
const lengthOf = ({ spec: { write, video }, rate }: Plan): number | null => pieceLength(write.format, video, rate!);

/** What a stop leaves to go on with. */
function stoppedWords({ plan, video, settled }: RunningJob): string {
  if (plan.into.kind !== 'video') return `stopped: ${settled.size} of ${plan.files} are settled`;
  const length = lengthOf(plan);
  if (length === null) return 'stopped: this video is encoded in one, and starts again';
  const { safe = 0 } = video ?? {};
  return safe > 0
    ? `stopped: ${safe} of ${plan.frames} pictures stay, and it goes on after them`
    : `stopped within its first ${length} pictures: it starts again`;
}

/** Looks whether all results are still what was written, and writes the receipt. */
async function finish(job: RunningJob, places: Places, { pool, store, closing }: Ground): Promise<void> {
  const { row, plan, journal, log } = job;
  const read = await journal.read();
  const written = [...read.written.values()].map(({ index, name, bytes, modified }) => ({
    index,
    name,
    bytes,
    modified,
  }));
  const lost = await pool.run('results', { plan, places, written });
  if (lost.length > 0) {
    await journal.open();
    await Promise.all(lost.map(({ failure, index }) => journal.add({ failed: failure, index })));
    await journal.close();
    for (const { failure } of lost) log.note('error', failure.fact);
  }
  const settled = lost.length > 0 ? await journal.read() : read;
  job.settle(settled);
  const failures = [...job.failed.values()].sort((a, b) => a.frame - b.frame);
  row.finished = new Date().toISOString();
  const times = { started: row.started!, finished: row.finished, workSeconds: row.workSeconds };
  const { sound, estimate, media: sources, kept } = settled;
  const more = {
    ...(sound ? { sound } : {}),
    ...(estimate ? { estimate } : {}),
    ...(kept.size > 0 ? { kept: kept.size } : {}),
    sources,
    shale: shaleVersion,
  };
  const receipt = summarise(plan, job.sum, failures, times, more);
  await patiently(() => store.putReceipt(row.id, receipt), closing);
  row.state = failures.length > 0 ? 'incomplete' : 'done';
  log.note(failures.length > 0 ? 'error' : 'info', `ended: ${job.sum.written} written, ${failures.length} failed`);
}

/** Results of a plan that have numbers in some ranges. */
export function indicesOf(plan: Plan, has: (frame: number) => boolean): number[] {
  if (plan.into.kind === 'video') return [0];
  return resultsOf(plan, 0, plan.frames).flatMap(({ frame }, index) => (has(frame) ? index : []));
}

/** The files that a job wrote, in the plan's order. */
export const inOrder = (written: Iterable<Written>): Written[] => [...written].sort((a, b) => a.index - b.index);
