import {
  coverageOf,
  frameSpan,
  noTally,
  printSentence,
  sentenceOf,
  tally,
  writtenAs,
  type Failure,
  type Plan,
  type PlanRun,
  type Tally,
  type Written,
} from '@shale/core';
import type { Job, JobPriority } from '@shale/contract';
import type { VideoProgress } from '@shale/engine';
import type { JobRow } from '../store/store.ts';
import type { Journal, JournalLine, Settled } from './journal.ts';
import type { JobLog } from './log.ts';

/** Files that must be done before a rate is told. */
const enough = 3;

/** The rank of a job's work among that of others, smaller first. */
export const priorityRank: Record<JobPriority, number> = { first: 0, normal: 1, last: 2 };

/** A job as it stands: its row, its plan and what has come of it. */
export class RunningJob {
  sum: Tally = noTally();
  readonly failed = new Map<number, Failure>();
  readonly settled = new Set<number>();
  /** Results that are tried again after they failed: their sources may have been mended meanwhile. */
  readonly retried = new Set<number>();
  /** Results that are made again in place of what the job wrote. */
  readonly again = new Set<number>();
  /** Whether source files that changed since the plan are taken. */
  takesChanged = false;
  /** Checksum of the sound that it, or an earlier job, wrote beside stills. */
  soundBefore: string | undefined;
  /** What could not be noted in the journal, its disk being full: noted first when the job goes on. */
  readonly unnoted: JournalLine[] = [];
  /** How far the video is that is being made; once it is stopped, what of it stays. */
  video: VideoProgress | undefined;
  private began: number | undefined;
  private writtenBefore = 0;

  constructor(
    readonly row: JobRow,
    readonly plan: Plan,
    readonly journal: Journal,
    readonly log: JobLog,
    settled?: Settled,
  ) {
    if (settled) this.settle(settled);
    const stays = row.state === 'stopped' ? row.view?.video : undefined;
    if (stays && stays.done > 0)
      this.video = { ...stays, bytes: row.view!.bytes, safe: stays.done, before: stays.done };
  }

  /** Takes note that its video is not worked on any more: its whole pieces stay. */
  videoRests(): void {
    const { video } = this;
    const { safe = 0 } = video ?? {};
    this.video = video && safe > 0 && this.settled.size === 0 ? { ...video, done: safe, before: safe } : undefined;
  }

  /** Takes over what its journal says. */
  settle({ written, failed, retried, again, takesChanged, soundBefore, sound }: Settled): void {
    this.sum = noTally();
    this.failed.clear();
    this.settled.clear();
    // What was made again is not in place of anything any more: a file that has its name by then is somebody else's.
    this.retried.clear();
    this.again.clear();
    for (const one of written.values()) this.addWritten(one);
    for (const [index, failure] of failed) this.addFailed(failure, index);
    for (const index of retried) this.retried.add(index);
    for (const index of again) this.again.add(index);
    this.takesChanged = takesChanged;
    this.soundBefore = sound?.sha256 ?? soundBefore;
  }

  addWritten(written: Written): void {
    tally(this.sum, written);
    this.settled.add(written.index);
    this.failed.delete(written.index);
  }

  addFailed(failure: Failure, index: number): void {
    this.failed.set(index, failure);
    this.settled.add(index);
  }

  start(): void {
    this.began = performance.now();
    this.writtenBefore = this.sum.written;
  }

  /** Adds the time since {@link start} to the job's working time. */
  pause(): void {
    if (this.began === undefined) return;
    this.row.workSeconds += (performance.now() - this.began) / 1000;
    this.began = undefined;
  }

  /** The job as the interface is told of it. */
  view(): Job {
    const { row, plan, sum } = this;
    const since = this.began === undefined ? 0 : (performance.now() - this.began) / 1000;
    const { video } = this;
    const fresh = video ? video.done - video.before : sum.written - this.writtenBefore;
    const rate = since > 0 && fresh >= enough ? fresh / since : null;
    const left = video ? video.of - video.done : plan.files - this.settled.size;
    const numbers = (...kinds: PlanRun['kind'][]) =>
      plan.runs
        .filter((run) => kinds.includes(run.kind))
        .map(({ to, toStep, count }) => ({ first: to, last: to + (count - 1) * toStep, step: toStep }));
    return {
      id: row.id,
      batch: row.batch,
      output: row.output,
      source: row.source,
      state: row.state,
      priority: row.priority,
      place: row.place,
      sentence: printSentence(sentenceOf(plan)),
      sourceName: plan.source.name,
      into: {
        root: plan.into.root,
        folder: plan.into.folder,
        pattern: writtenAs(plan.into),
      },
      total: plan.files,
      written: sum.written,
      failed: this.failed.size,
      bytes: sum.bytes + (video?.bytes ?? 0),
      video:
        plan.into.kind !== 'video'
          ? null
          : { done: video?.done ?? (this.settled.size > 0 ? plan.frames : 0), of: video?.of ?? plan.frames },
      coverage: coverageOf([...sum.frames].sort((a, b) => a - b)),
      failedFrames: coverageOf([...this.failed.values()].map(({ frame }) => frame).sort((a, b) => a - b)),
      leftOut: numbers('missing'),
      span: frameSpan(numbers('write', 'slate')) ?? null,
      workSeconds: row.workSeconds + since,
      rate,
      secondsLeft: rate === null ? null : left / rate,
      created: new Date(row.created).toISOString(),
      finished: row.finished,
      problem: row.problem,
      sourceChanged: [row.problem, ...this.failed.values()].some((one) => one?.code === 'source-changed'),
    };
  }
}

/** What runs as one: a job by itself, or the outputs of a source of a batch. */
export const lineOf = ({ row: { id, batch, source } }: RunningJob): string =>
  batch === null ? id : `${batch} ${source}`;
