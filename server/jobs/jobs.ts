import { randomBytes } from 'node:crypto';
import { setTimeout as wait } from 'node:timers/promises';
import {
  foldersRead,
  folderWritten,
  problemOf,
  ShaleError,
  summarise,
  writeSameNames,
  type Estimate,
  type Place,
  type Plan,
  type Problem,
  type Written,
} from '@shale/core';
import type { Job } from '@shale/contract';
import { carryOut, preflight, type Places, type WorkerPool } from '@shale/engine';
import type { Events } from '../events.ts';
import { insideRoot } from '../roots/paths.ts';
import { sourcePlaces } from './places.ts';
import type { Roots } from '../roots/roots.ts';
import { patiently } from '../store/away.ts';
import type { JobRow, Store } from '../store/store.ts';
import { Journal, type JournalLine } from './journal.ts';
import { RunningJob } from './running.ts';

/** How often a running job is told of, in milliseconds. */
const tellEvery = 200;

/** How long an answer waits for the database to keep a job's state, in milliseconds; it is kept in any case. */
const keepWait = 2000;

/** Jobs: one runs at a time over all processes, in the order they came. */
export class Jobs {
  private readonly jobs = new Map<string, RunningJob>();
  /** Plans of jobs that are being looked through before they are queued: what they touch is theirs already. */
  private readonly claimed = new Set<Plan>();
  /** States on their way to the database, one after another. */
  private kept: Promise<void> = Promise.resolve();
  private current: { job: RunningJob; stop: AbortController; ended: Promise<void> } | undefined;
  private closing = false;

  constructor(
    private readonly store: Store,
    private readonly roots: Roots,
    private readonly pool: WorkerPool,
    private readonly events: Events,
    private readonly journals: string,
  ) {}

  /** Takes up what was running or waiting when the server stopped. */
  async begin(): Promise<void> {
    for (const row of (await this.store.listJobs()).reverse()) {
      try {
        const plan = await this.store.getPlan(row.plan);
        const job = new RunningJob(row, plan, await new Journal(this.journals, row.id).read());
        if (row.state === 'running') row.state = 'queued';
        this.jobs.set(row.id, job);
      } catch (error) {
        if (problemOf(error).code !== 'row-unreadable') throw error;
        process.stderr.write(`job ${row.id} is left out: ${(error as Error).message}\n`);
      }
    }
    this.next();
  }

  list(): Job[] {
    return [...this.jobs.values()].sort((a, b) => b.row.created - a.row.created).map((job) => job.view());
  }

  /** @throws ShaleError `job-not-found` */
  get(id: string): RunningJob {
    const job = this.jobs.get(id);
    if (job) return job;
    throw new ShaleError({
      code: 'job-not-found',
      fact: `There is no job ${id}.`,
      wayOut: 'Choose one from the list of jobs.',
      subject: id,
    });
  }

  /** The files that a job wrote, in the plan's order. */
  async writtenBy(id: string): Promise<Written[]> {
    const { written } = await new Journal(this.journals, id).read();
    return [...written.values()].sort((a, b) => a.index - b.index);
  }

  /**
   * Looks for what would stop a plan and, where nothing does, queues it.
   * @throws ShaleError the first thing that stops it
   */
  async start(source: string, plan: Plan, estimate?: Estimate): Promise<Job> {
    this.refuseSameNames(plan);
    // Nothing is waited for between the look and the claim: of two that come at once the second is refused.
    this.claimed.add(plan);
    try {
      return await this.enqueue(source, plan, estimate);
    } finally {
      this.claimed.delete(plan);
    }
  }

  private async enqueue(source: string, plan: Plan, estimate?: Estimate): Promise<Job> {
    const id = randomBytes(6).toString('hex');
    const [problem] = await this.check(plan, id);
    if (problem) throw new ShaleError(problem);
    const row: JobRow = {
      id,
      plan: await this.store.putPlan(source, plan),
      source,
      state: 'queued',
      workSeconds: 0,
      problem: null,
      created: Date.now(),
      started: null,
      finished: null,
    };
    const job = new RunningJob(row, plan, { written: new Map(), failed: new Map() });
    if (estimate) {
      const journal = new Journal(this.journals, id);
      await journal.open();
      await journal.add({ estimate }).finally(() => journal.close());
    }
    await this.store.putJob(row);
    this.jobs.set(id, job);
    this.tell(job);
    this.next();
    return job.view();
  }

  /** Stops a job after the frames in work; what is written stays. */
  async stop(id: string): Promise<Job> {
    const job = this.get(id);
    if (this.current?.job === job) {
      this.current.stop.abort();
      await this.current.ended;
    } else if (job.row.state === 'queued') {
      job.row.state = 'stopped';
      await this.keep(job.row);
      this.tell(job);
    }
    return job.view();
  }

  /** Lets a stopped job go on at the next frame; a done one with failures tries those again. */
  async continue(id: string): Promise<Job> {
    const job = this.get(id);
    const mayGoOn = job.row.state === 'stopped' || (job.row.state === 'done' && job.failed.size > 0);
    if (!mayGoOn) {
      throw new ShaleError({
        code: 'not-stopped',
        fact: `The job is ${job.row.state}.`,
        wayOut: 'Only a stopped job, or one with failed frames, can go on.',
        subject: id,
      });
    }
    const retry = job.forgetFailures();
    if (retry.length > 0) {
      const journal = new Journal(this.journals, id);
      await journal.open();
      await journal.add({ retry }).finally(() => journal.close());
    }
    job.row.state = 'queued';
    job.row.problem = null;
    job.row.finished = null;
    await this.keep(job.row);
    this.tell(job);
    this.next();
    return job.view();
  }

  /** Stops what runs without marking it stopped: the next start takes it up again. */
  async close(): Promise<void> {
    this.closing = true;
    this.current?.stop.abort();
    await this.current?.ended;
    await this.kept;
  }

  /** The name of a source whose job waits, runs or is about to be queued, and reads or writes in a folder; with the state of the job. */
  usingFolder(root: string, folder: string): Busy | undefined {
    const isIt = (place: Place) => place.root === root && place.folder === folder;
    return this.busy().find(({ plan }) => [...foldersRead(plan), folderWritten(plan)].some(isIt));
  }

  /** Work that is under way or about to be. */
  private busy(): Busy[] {
    return [
      ...[...this.jobs.values()]
        .filter(({ row: { state } }) => state === 'queued' || state === 'running')
        .map(({ row, plan }) => ({ id: row.id, plan, state: row.state })),
      ...[...this.claimed].map((plan) => ({ id: '', plan, state: 'queued' as const })),
    ];
  }

  private async places(plan: Plan): Promise<Places> {
    const target = this.roots.writable(plan.into.root).path;
    await insideRoot(target, plan.into.folder);
    return { ...(await sourcePlaces(plan, this.roots)), target };
  }

  private async check(plan: Plan, id: string) {
    try {
      return await preflight(plan, await this.places(plan), id);
    } catch (error) {
      return [problemOf(error)];
    }
  }

  /** Two waiting jobs must not write the same files: neither has written them yet, so the disk cannot tell. */
  private refuseSameNames(plan: Plan): void {
    const same = this.busy().find((other) => writeSameNames(plan, other.plan));
    if (!same) return;
    const { folder } = plan.into;
    throw new ShaleError({
      code: 'output-claimed',
      fact: `A job that ${same.state === 'running' ? 'runs' : 'waits'} writes these names into ${folder} already.`,
      wayOut: 'Wait for it, or choose another folder or name.',
      subject: folder,
    });
  }

  /**
   * Keeps a job's state in the database, however long that is away; returns once it is kept, or after a moment. The journal
   * knows what was written meanwhile.
   */
  private async keep(row: JobRow): Promise<void> {
    const now = { ...row };
    this.kept = this.kept
      .then(() =>
        patiently(
          () => this.store.putJob(now),
          () => this.closing,
        ),
      )
      .catch(
        (error: unknown) => void process.stderr.write(`job ${row.id}: its state was not kept: ${String(error)}\n`),
      );
    await Promise.race([this.kept, wait(keepWait, undefined, { ref: false })]);
  }

  private tell(job: RunningJob): void {
    this.events.send({ type: 'job', job: job.view() });
  }

  private next(): void {
    if (this.current || this.closing) return;
    const job = [...this.jobs.values()]
      .filter(({ row }) => row.state === 'queued')
      .sort((a, b) => a.row.created - b.row.created)[0];
    if (!job) return;
    const stop = new AbortController();
    const ended = this.run(job, stop).finally(() => {
      this.current = undefined;
      this.next();
    });
    this.current = { job, stop, ended };
  }

  private async run(job: RunningJob, stop: AbortController): Promise<void> {
    const { row, plan } = job;
    const journal = new Journal(this.journals, row.id);
    let told = 0;
    const progress = () => {
      if (Date.now() - told < tellEvery) return;
      told = Date.now();
      this.tell(job);
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
      row.state = 'running';
      row.started ??= new Date().toISOString();
      await this.keep(row);
      this.tell(job);
      await journal.open();
      for (let line = job.unnoted[0]; line; line = job.unnoted[0]) {
        await journal.add(line);
        job.unnoted.shift();
      }
      const places = await this.places(plan);
      job.start();
      await carryOut({
        plan,
        places,
        job: row.id,
        pool: this.pool,
        settled: new Set(job.settled),
        signal: stop.signal,
        onVideo: (video) => {
          job.video = video;
          progress();
        },
        onSound: (sound) => note({ sound }),
        onWritten: (written) => {
          note({ written });
          job.addWritten(written);
          progress();
        },
        onFailed: (failure, index) => {
          note({ failed: failure, index });
          job.addFailed(failure, index);
          progress();
        },
      });
      job.pause();
      job.video = undefined;
      await journal.close();
      if (unnoted) throw new ShaleError(unnoted);
      if (job.settled.size === plan.files)
        await patiently(
          () => this.finish(job),
          () => this.closing,
        );
      else if (!this.closing) row.state = 'stopped';
    } catch (error) {
      job.pause();
      job.video = undefined;
      if (!this.closing) {
        row.state = 'stopped';
        row.problem = problemOf(error);
      }
    } finally {
      await journal.close();
      await this.keep(row);
      if (!this.closing) this.tell(job);
    }
  }

  private async finish(job: RunningJob): Promise<void> {
    const { row, plan, sum, failed } = job;
    const finished = new Date().toISOString();
    const failures = [...failed.values()].sort((a, b) => a.frame - b.frame);
    const times = { started: row.started!, finished, workSeconds: row.workSeconds };
    const { sound, estimate } = await new Journal(this.journals, row.id).read();
    const more = { ...(sound ? { sound } : {}), ...(estimate ? { estimate } : {}) };
    await this.store.putReceipt(row.id, summarise(plan, sum, failures, times, more));
    row.state = 'done';
    row.finished = finished;
    this.roots.finished(plan.into.root, plan.into.folder);
  }
}

/** Work that holds folders and names. */
interface Busy {
  /** Of the job; empty where it is not queued yet. */
  id: string;
  plan: Plan;
  state: Job['state'];
}
