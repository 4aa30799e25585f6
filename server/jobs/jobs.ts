import { randomBytes } from 'node:crypto';
import { problemOf, ShaleError, summarise, type Estimate, type Plan, type Written } from '@shale/core';
import type { Job } from '@shale/contract';
import { carryOut, preflight, type Places, type WorkerPool } from '@shale/engine';
import type { Events } from '../events.ts';
import { insideRoot } from '../roots/paths.ts';
import { sourcePlaces } from './places.ts';
import type { Roots } from '../roots/roots.ts';
import type { JobRow, Store } from '../store/store.ts';
import { Journal } from './journal.ts';
import { RunningJob } from './running.ts';

/** How often a running job is told of, in milliseconds. */
const tellEvery = 200;

/** Jobs: one runs at a time over all processes, in the order they came. */
export class Jobs {
  private readonly jobs = new Map<string, RunningJob>();
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
      const plan = await this.store.getPlan(row.plan);
      const job = new RunningJob(row, plan, await new Journal(this.journals, row.id).read());
      if (row.state === 'running') row.state = 'queued';
      this.jobs.set(row.id, job);
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
    const id = randomBytes(6).toString('hex');
    const [problem] = await this.check(plan, id);
    if (problem) throw new ShaleError(problem);
    this.refuseSameNames(plan);
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
      journal.add({ estimate });
      await journal.close();
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
      await this.store.putJob(job.row);
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
      journal.add({ retry });
      await journal.close();
    }
    job.row.state = 'queued';
    job.row.problem = null;
    job.row.finished = null;
    await this.store.putJob(job.row);
    this.tell(job);
    this.next();
    return job.view();
  }

  /** Stops what runs without marking it stopped: the next start takes it up again. */
  async close(): Promise<void> {
    this.closing = true;
    this.current?.stop.abort();
    await this.current?.ended;
  }

  /** A job that waits or runs and reads or writes in a folder. */
  usingFolder(root: string, folder: string): Job | undefined {
    return [...this.jobs.values()]
      .find(
        ({ row, plan }) =>
          (row.state === 'queued' || row.state === 'running') &&
          ((plan.root === root && plan.source.folder === folder) ||
            Object.values(plan.others).some((other) => other.root === root && other.source.folder === folder) ||
            (plan.into.root === root && plan.into.folder === folder)),
      )
      ?.view();
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
    const { root, folder, pattern } = plan.into;
    const same = [...this.jobs.values()].find(
      ({ row, plan: other }) =>
        (row.state === 'queued' || row.state === 'running') &&
        other.into.root === root &&
        other.into.folder === folder &&
        other.into.pattern.prefix === pattern.prefix &&
        other.into.pattern.suffix === pattern.suffix &&
        other.into.file === plan.into.file,
    );
    if (!same) return;
    throw new ShaleError({
      code: 'output-claimed',
      fact: `A job that ${same.row.state === 'running' ? 'runs' : 'waits'} writes these names into ${folder} already.`,
      wayOut: 'Wait for it, or choose another folder or name.',
      subject: folder,
    });
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
    try {
      row.state = 'running';
      row.started ??= new Date().toISOString();
      await this.store.putJob(row);
      this.tell(job);
      await journal.open();
      const places = await this.places(plan);
      job.start();
      await carryOut({
        plan,
        places,
        job: row.id,
        pool: this.pool,
        settled: new Set(job.settled),
        signal: stop.signal,
        onFilm: (film) => {
          job.film = film;
          progress();
        },
        onSound: (sound) => journal.add({ sound }),
        onWritten: (written) => {
          journal.add({ written });
          job.addWritten(written);
          progress();
        },
        onFailed: (failure, index) => {
          journal.add({ failed: failure, index });
          job.addFailed(failure, index);
          progress();
        },
      });
      job.pause();
      job.film = undefined;
      await journal.close();
      if (job.settled.size === plan.files) await this.finish(job);
      else if (!this.closing) row.state = 'stopped';
    } catch (error) {
      job.pause();
      job.film = undefined;
      if (!this.closing) {
        row.state = 'stopped';
        row.problem = problemOf(error);
      }
    } finally {
      await journal.close();
      await this.store.putJob(row);
      if (!this.closing) this.tell(job);
    }
  }

  private async finish(job: RunningJob): Promise<void> {
    const { row, plan, sum, failed } = job;
    row.state = 'done';
    row.finished = new Date().toISOString();
    const failures = [...failed.values()].sort((a, b) => a.frame - b.frame);
    const times = { started: row.started!, finished: row.finished, workSeconds: row.workSeconds };
    const { sound, estimate } = await new Journal(this.journals, row.id).read();
    const more = { ...(sound ? { sound } : {}), ...(estimate ? { estimate } : {}) };
    await this.store.putReceipt(row.id, summarise(plan, sum, failures, times, more));
    this.roots.finished(plan.into.root, plan.into.folder);
  }
}
