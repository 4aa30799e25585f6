import { randomBytes } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import pLimit from 'p-limit';
import {
  foldersRead,
  folderWritten,
  problemOf,
  ShaleError,
  writeSameNames,
  type Estimate,
  type FrameRange,
  type Place,
  type Plan,
  type Problem,
} from '@shale/core';
import type { Job, JobLogLine, JobPriority } from '@shale/contract';
import { preflight, sweepPieces, Together, type Places, type WorkerPool } from '@shale/engine';
import type { Events } from '../events.ts';
import { log } from '../log.ts';
import { placesOf } from './places.ts';
import type { Roots } from '../roots/roots.ts';
import { isAway } from '../store/away.ts';
import type { JobRow, Page, Store } from '../store/store.ts';
import { lookAgain, notSo, toMakeAgain } from './before.ts';
import { carryOn } from './carrying.ts';
import { JobRecords } from './records.ts';
import { lineOf, priorityRank, type RunningJob } from './running.ts';
import { linesOf, type Busy, type Keeps, type Refused, type ToRun } from './toRun.ts';

/** Jobs that run at once, those of one source and batch counted as one: they share the processes in turns. */
export const jobsAtOnce = 3;

/** Jobs at rest that are kept at hand. */
const restingKept = 20;

/** What a person lets a job go on with. */
export interface GoOn {
  changed?: 'take';
  again?: FrameRange[];
}

/** Plans that are looked through at once before they are queued. */
const preflights = pLimit(8);

/** A job at work. */
interface UnderWay {
  job: RunningJob;
  stop: AbortController;
  ended: Promise<void>;
}

/** Jobs: some run at once over all processes, the others wait for their turn. */
export class Jobs {
  /** What is kept of them. */
  readonly records: JobRecords;
  /** Jobs that wait or run, by id. */
  private readonly open = new Map<string, RunningJob>();
  /** Jobs at rest that were asked for of late. */
  private readonly resting = new LRUCache<string, RunningJob>({ max: restingKept });
  /** Plans of jobs that are being looked through before they are queued: what they touch is theirs already. */
  private readonly claimed = new Set<Plan>();
  private readonly running = new Map<string, UnderWay>();
  private closing = false;
  /** Told of a job whenever pages are. */
  onTold: (job: Job) => void = () => undefined;
  private readonly sums = { written: 0, failed: 0 };
  private readonly together: Together;

  constructor(
    private readonly store: Store,
    private readonly roots: Roots,
    private readonly pool: WorkerPool,
    private readonly events: Events,
    journals: string,
  ) {
    this.records = new JobRecords(store, journals);
    this.together = new Together(pool);
  }

  /** Takes up what was running or waiting when the server stopped. */
  async begin(): Promise<void> {
    for (const row of await this.store.listOpenJobs()) {
      try {
        const job = await this.records.load(row);
        row.state = 'queued';
        this.open.set(row.id, job);
      } catch (error) {
        if (problemOf(error).code !== 'row-unreadable') throw error;
        log('warning', `job ${row.id} is left out: ${(error as Error).message}`);
      }
    }
    this.next();
  }

  /** A part of the list, the newest first. While the database is away, what is known without it. */
  async list(page: Page = { limit: 200 }): Promise<Job[]> {
    const rows = await this.store.listJobs(page).catch((error: unknown) => {
      if (!isAway(error)) throw error;
      return [...this.open.values(), ...this.resting.values()].map(({ row }) => row);
    });
    const jobs = await this.viewsOf(rows);
    return jobs.sort((a, b) => Date.parse(b.created) - Date.parse(a.created));
  }

  /** Jobs as they are told, in the order of their rows; those that cannot be read are left out. */
  async viewsOf(rows: readonly JobRow[]): Promise<Job[]> {
    const jobs = await Promise.all(
      rows.map(async (row) => {
        const known = this.open.get(row.id) ?? this.resting.get(row.id);
        if (known) return known.view();
        if (row.view) return row.view;
        // Of an earlier version: told as its plan and its journal say.
        const job = await this.records.load(row).catch(() => undefined);
        return job?.view();
      }),
    );
    return jobs.filter((job) => job !== undefined);
  }

  /** @throws ShaleError `job-not-found` */
  async get(id: string): Promise<RunningJob> {
    const known = this.open.get(id) ?? this.resting.get(id);
    if (known) return known;
    const row = await this.store.getJob(id);
    if (!row) {
      throw new ShaleError({
        code: 'job-not-found',
        fact: `There is no job ${id}.`,
        wayOut: 'Choose one from the list of jobs.',
        subject: id,
      });
    }
    const job = await this.records.load(row);
    // Two that ask at once get the same.
    const first = this.open.get(id) ?? this.resting.get(id);
    if (first) return first;
    this.resting.set(id, job);
    return job;
  }

  /** What happened to a job. @throws ShaleError `job-not-found` */
  async logOf(id: string): Promise<JobLogLine[]> {
    return (await this.get(id)).log.read();
  }

  /** How many wait and how many run; results written and failed since the start. */
  get counts(): { waiting: number; running: number; written: number; failed: number } {
    const { running } = this;
    return { waiting: this.open.size - running.size, running: running.size, ...this.sums };
  }

  /**
   * Looks for what would stop a plan and, where nothing does, queues it.
   * @throws ShaleError the first thing that stops it
   */
  async start(source: string, plan: Plan, estimate?: Estimate): Promise<Job> {
    const { jobs, refused } = await this.startAll([{ source, plan, ...(estimate ? { estimate } : {}) }]);
    if (refused[0]) throw new ShaleError(refused[0].problem);
    return jobs[0]!;
  }

  /**
   * Looks for what would stop each of some plans and queues those that nothing stops, in their order.
   * @param before done with what is to be queued, once it is known, and before it is
   */
  async startAll(
    all: readonly ToRun[],
    batch: string | null = null,
    before?: (refused: Refused[]) => Promise<void>,
  ): Promise<{ jobs: Job[]; refused: Refused[] }> {
    const refused: Refused[] = [];
    const created = Date.now();
    // Nothing is waited for between the look and the claim: of two that come at once the second is refused.
    const mine: { one: ToRun; at: number }[] = [];
    for (const [at, one] of all.entries()) {
      const problem = this.sameNames(one.plan);
      if (problem) refused.push({ at, problem });
      else {
        mine.push({ one, at });
        this.claimed.add(one.plan);
      }
    }
    try {
      const looked = await Promise.all(
        mine.map(({ one, at }) =>
          preflights(async () => ({ one, at, ...(await this.ready(one, at, batch, created)) })),
        ),
      );
      const made = looked.flatMap(({ one, job, at, problem }) => {
        if (problem) refused.push({ at, problem });
        return job ? [{ one, job }] : [];
      });
      refused.sort((a, b) => a.at - b.at);
      await before?.(refused);
      for (const { one, job } of made) await this.records.begin(job, linesOf(one));
      await this.store.putJobs(made.map(({ job: { row, plan } }) => ({ row, plan })));
      for (const { job } of made) {
        this.open.set(job.row.id, job);
        this.tell(job);
      }
      this.next();
      return { jobs: made.map(({ job }) => job.view()), refused };
    } finally {
      for (const { one } of mine) this.claimed.delete(one.plan);
    }
  }

  /** A job for a plan that nothing stops, or what stops it. */
  private async ready(
    { source, plan, output = 0, keeps }: ToRun,
    at: number,
    batch: string | null,
    created: number,
  ): Promise<{ job?: RunningJob; problem?: Problem }> {
    const id = randomBytes(6).toString('hex');
    const [problem] = await this.check(plan, id, keeps);
    if (problem) return { problem };
    return { job: this.records.fresh({ id, source, plan, batch, output, at, created }) };
  }

  /** Stops a job after the frames in work; what is written stays. */
  async stop(id: string): Promise<Job> {
    const job = await this.get(id);
    const underWay = this.running.get(id);
    if (underWay) {
      underWay.stop.abort();
      await underWay.ended;
    } else if (job.row.state === 'queued') await this.rest(job, 'stopped');
    return job.view();
  }

  /** Ends a job for good; what is written stays. @throws ShaleError `not-stopped` where it came to its end */
  async cancel(id: string): Promise<Job> {
    const job = await this.get(id);
    await this.stop(id);
    const { state } = job.row;
    if (state !== 'stopped' && state !== 'incomplete') throw notSo(job, 'Only an unfinished job can be cancelled.');
    job.row.problem = null;
    job.video = undefined;
    // Of a folder that is away nothing is taken away.
    const places = await this.places(job.plan).catch(() => undefined);
    if (places) sweepPieces(places.target, job.plan.into.folder, id);
    job.log.note('info', 'cancelled');
    await this.rest(job, 'cancelled');
    return job.view();
  }

  /**
   * Lets a stopped job go on at the next frame; one with failures tries those again, and any at rest makes results again.
   * @throws ShaleError `not-stopped`, `output-claimed`, and what is not back yet: a folder, a disk, a right
   */
  async continue(id: string, { changed, again }: GoOn = {}): Promise<Job> {
    const job = await this.get(id);
    const { state } = job.row;
    const mayGoOn = state === 'stopped' || state === 'incomplete' || (state === 'done' && again !== undefined);
    if (!mayGoOn) throw notSo(job, 'Only a stopped job, or one with failed frames, can continue.');
    const same = this.sameNames(job.plan, id);
    if (same) throw new ShaleError(same);
    // Claimed before anything is waited for: of two presses the second is refused.
    job.row.state = 'queued';
    try {
      const places = await this.places(job.plan);
      await lookAgain(job.plan, places);
      const indices = again ? await toMakeAgain(job, places, again, this.pool) : [];
      const retry = [...job.failed.keys()];
      await this.records.note(
        job,
        ...job.unnoted,
        ...(retry.length > 0 ? [{ retry }] : []),
        ...(indices.length > 0 ? [{ again: indices }] : []),
        ...(changed ? [{ takesChanged: true as const }] : []),
      );
      job.unnoted.length = 0;
      job.settle(await job.journal.read());
    } catch (error) {
      job.row.state = state;
      throw error;
    }
    if (changed) job.log.note('info', 'changed source files are used as they are');
    job.row.problem = null;
    job.row.finished = null;
    this.resting.delete(id);
    this.open.set(id, job);
    await this.records.keep(job, () => this.closing);
    this.tell(job);
    this.next();
    return job.view();
  }

  /** Gives a job another priority, or another place among those that wait. @throws ShaleError `job-not-found` */
  async order(id: string, { priority, before }: { priority?: JobPriority; before?: string | null }): Promise<Job> {
    const job = await this.get(id);
    if (priority) job.row.priority = priority;
    if (before !== undefined) {
      const line = this.waiting(job.row.priority).filter((one) => one !== job);
      const at = before === null ? line.length : line.findIndex(({ row }) => row.id === before);
      const earlier = line[at - 1]?.row.place;
      const later = line[at]?.row.place;
      if (earlier !== undefined || later !== undefined)
        job.row.place =
          earlier === undefined ? later! - 1000 : later === undefined ? earlier + 1000 : (earlier + later) / 2;
    }
    await this.records.keep(job, () => this.closing);
    this.tell(job);
    return job.view();
  }

  /** Stops what runs without marking it stopped: the next start takes it up again. */
  async close(): Promise<void> {
    this.closing = true;
    const all = [...this.running.values()];
    for (const { stop } of all) stop.abort();
    await Promise.all(all.map(({ ended }) => ended));
    await this.records.close();
  }

  /** The name of a source whose job waits, runs or is about to be queued, and reads or writes in a folder, or anywhere in a root; with the state of the job. */
  usingFolder(root: string, folder?: string): Busy | undefined {
    const isIt = (place: Place) => place.root === root && (folder === undefined || place.folder === folder);
    return this.busy().find(({ plan }) => [...foldersRead(plan), folderWritten(plan)].some(isIt));
  }

  /** Work that is under way or about to be. */
  private busy(): Busy[] {
    return [
      ...[...this.open.values(), ...this.resting.values()]
        .filter(({ row: { state } }) => state === 'queued' || state === 'running')
        .map(({ row, plan }) => ({ id: row.id, plan, state: row.state })),
      ...[...this.claimed].map((plan) => ({ id: '', plan, state: 'queued' as const })),
    ];
  }

  private places(plan: Plan): Promise<Places> {
    return placesOf(plan, this.roots);
  }

  private async check(plan: Plan, id: string, keeps?: Keeps): Promise<Problem[]> {
    try {
      return await preflight(plan, await this.places(plan), id, keeps?.names);
    } catch (error) {
      return [problemOf(error)];
    }
  }

  /** Two waiting jobs must not write the same files: neither has written them yet, so the disk cannot tell. */
  private sameNames(plan: Plan, but?: string): Problem | undefined {
    const same = this.busy().find(({ id, plan: other }) => id !== but && writeSameNames(plan, other));
    if (!same) return undefined;
    const { folder } = plan.into;
    return {
      code: 'output-claimed',
      fact: `A job that ${same.state === 'running' ? 'runs' : 'waits'} writes these names into ${folder} already.`,
      wayOut: 'Wait for it, or choose another folder or name.',
      subject: folder,
    };
  }

  /** Takes a job that waits out of the line. */
  private async rest(job: RunningJob, state: 'stopped' | 'cancelled'): Promise<void> {
    job.row.state = state;
    this.open.delete(job.row.id);
    this.resting.set(job.row.id, job);
    await this.records.keep(job, () => this.closing);
    this.tell(job);
  }

  private tell(job: RunningJob): void {
    const view = job.view();
    this.events.send({ type: 'job', job: view });
    this.onTold(view);
  }

  /** Jobs that wait, the next first; of one priority where it is given. */
  private waiting(priority?: JobPriority): RunningJob[] {
    return [...this.open.values()]
      .filter(({ row }) => row.state === 'queued' && (priority === undefined || row.priority === priority))
      .sort(({ row: a }, { row: b }) => priorityRank[a.priority] - priorityRank[b.priority] || a.place - b.place);
  }

  private next(): void {
    while (!this.closing) {
      const lines = new Set([...this.running.values()].map(({ job }) => lineOf(job)));
      // The outputs of one source go together: they are made of the same pictures.
      const mayBegin = (job: RunningJob) => lines.size < jobsAtOnce || lines.has(lineOf(job));
      const job = this.waiting().find((one) => !this.running.has(one.row.id) && mayBegin(one));
      if (!job) return;
      const stop = new AbortController();
      const { id } = job.row;
      const seat = this.together.join(job.plan, priorityRank[job.row.priority]);
      const ended = carryOn(job, stop, {
        seat,
        store: this.store,
        pool: this.pool,
        places: (plan) => this.places(plan),
        readingsOf: (root, folder) => this.roots.readingsOf(root, folder),
        tell: (one) => this.tell(one),
        keep: (one) => this.records.keep(one, () => this.closing),
        closing: () => this.closing,
        sums: this.sums,
      }).finally(() => {
        seat?.leave();
        this.running.delete(id);
        if (!this.closing) {
          this.open.delete(id);
          this.resting.set(id, job);
        }
        if (job.row.state === 'done' || job.row.state === 'incomplete')
          this.roots.finished(job.plan.into.root, job.plan.into.folder);
        this.next();
      });
      this.running.set(id, { job, stop, ended });
    }
  }
}
