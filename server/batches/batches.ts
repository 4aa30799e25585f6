import { randomBytes } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import pLimit from 'p-limit';
import { problemOf, ShaleError, type Batch } from '@shale/core';
import type { BatchReceipt, BatchView, Job, JobPriority } from '@shale/contract';
import type { Events } from '../events.ts';
import type { Jobs } from '../jobs/jobs.ts';
import type { ToRun } from '../jobs/toRun.ts';
import { log } from '../log.ts';
import type { BatchRow } from '../store/batches.ts';
import type { Page, Store } from '../store/store.ts';
import { lightOf, viewOf, type Light } from './view.ts';

/** Batches whose jobs are kept at hand. */
const liveKept = 20;

/** How often a batch at work is told of, in milliseconds. */
const tellEvery = 250;

/** Results and milliseconds after which a rate is told. */
const enough = { results: 3, milliseconds: 1500 };

/** Jobs of a batch that are acted on at once. */
const acting = pLimit(4);

/** Jobs that are read at once. */
const together = 500;

/** A batch at hand. */
interface Live {
  row: BatchRow;
  lights: Map<string, Light>;
  /** When it was last begun, and how many results there were then; undefined while it rests. */
  began: { at: number; done: number } | undefined;
  finished: string | null;
}

/** What is to be run together. */
export interface ToBegin {
  batch: Batch;
  sentence: string;
  /** Ids of its sources, in its order. */
  sources: string[];
  parts: (ToRun & { name: string })[];
  /** Id of the standing order that begins it. */
  standing?: string | null;
}

/** Batches: jobs that were begun by one press, and are told, steered and receipted as one. */
export class Batches {
  private readonly live = new LRUCache<string, Live>({ max: liveKept });
  private readonly timers = new Map<string, NodeJS.Timeout>();

  constructor(
    private readonly store: Store,
    private readonly jobs: Jobs,
    private readonly events: Events,
  ) {
    jobs.onTold = (job) => this.heard(job);
  }

  /**
   * Queues the parts of a batch. What is refused at this moment is told with it, and the others run.
   * @throws ShaleError the first refusal where nothing is left to run
   */
  async start({ batch, sentence, sources, parts, standing = null }: ToBegin): Promise<BatchView> {
    const id = randomBytes(6).toString('hex');
    const row: BatchRow = { id, batch, sources, sentence, refused: [], view: null, created: Date.now(), standing };
    const live: Live = { row, lights: new Map(), began: undefined, finished: null };
    const { jobs } = await this.jobs.startAll(parts, id, async (refused) => {
      if (refused.length === parts.length)
        throw new ShaleError(
          refused[0]?.problem ?? {
            code: 'nothing-to-run',
            fact: 'Nothing is left to run.',
            wayOut: 'Select sources on Intake.',
          },
        );
      row.refused = refused.map(({ at, problem }) => ({
        source: parts[at]!.source,
        name: parts[at]!.name,
        output: parts[at]!.output ?? 0,
        problem,
      }));
      await this.store.batches.put(row);
      this.live.set(id, live);
    });
    for (const job of jobs) this.take(live, job);
    return this.viewNow(live);
  }

  /** A part of the list, the newest first. */
  async list(page: Page): Promise<BatchView[]> {
    const rows = await this.store.batches.list(page);
    return Promise.all(
      rows.map(async (row) => {
        const live = this.live.get(row.id);
        if (live) return this.viewNow(live);
        return row.view ?? this.viewNow(await this.load(row));
      }),
    );
  }

  /** @throws ShaleError `batch-not-found` */
  async view(id: string): Promise<BatchView> {
    return this.viewNow(await this.get(id));
  }

  /** What was wanted of a batch, and of which sources. @throws ShaleError `batch-not-found` */
  async wanted(id: string): Promise<Pick<BatchRow, 'batch' | 'sources'>> {
    return (await this.get(id)).row;
  }

  /** Jobs of a batch in its order. @throws ShaleError `batch-not-found` */
  async jobsOf(id: string, part: { offset: number; limit: number }): Promise<Job[]> {
    await this.get(id);
    return this.jobs.viewsOf(await this.store.jobsOf(id, part));
  }

  /** Stops all of its jobs; they can go on. */
  async stop(id: string): Promise<BatchView> {
    // Those that wait first: none of them begins in the place of one that was stopped.
    await this.each(id, ['queued'], (job) => this.jobs.stop(job));
    await this.each(id, ['queued', 'running'], (job) => this.jobs.stop(job));
    return this.view(id);
  }

  /** Lets stopped jobs go on, and tries again what failed. @throws ShaleError where none of them can */
  async continue(id: string, more: { changed?: 'take' } = {}): Promise<BatchView> {
    const { row } = await this.get(id);
    const refused: unknown[] = [];
    const count = await this.each(id, ['stopped', 'incomplete'], (job) =>
      this.jobs.continue(job, more).catch((error: unknown) => void refused.push(error)),
    );
    if (count === 0)
      throw new ShaleError({
        code: 'not-stopped',
        fact: 'No job of this batch is stopped or incomplete.',
        wayOut: 'Look at its jobs.',
        subject: id,
      });
    if (refused.length === count) throw refused[0];
    await this.store.batches.put({ ...row, view: null });
    return this.view(id);
  }

  /** Ends what has not come to its end; what it wrote stays. */
  async cancel(id: string): Promise<BatchView> {
    await this.stop(id);
    await this.each(id, ['stopped', 'incomplete'], (job) => this.jobs.cancel(job));
    return this.view(id);
  }

  async order(id: string, priority: JobPriority): Promise<BatchView> {
    await this.each(id, ['queued', 'running'], (job) => this.jobs.order(job, { priority }));
    return this.view(id);
  }

  /** What its jobs wrote and how it was checked. @throws ShaleError `batch-not-found` */
  async receipt(id: string): Promise<BatchReceipt> {
    const live = await this.get(id);
    const outputs = new Map([...live.lights.values()].map((one) => [one.id, one.output]));
    const receipts = await this.store.receiptsOf(id);
    return {
      batch: this.viewNow(live),
      parts: receipts.map(
        ({
          job,
          source,
          into,
          sentence,
          planned,
          written,
          kept = 0,
          bytes,
          failed,
          check,
          losses,
          started,
          finished,
        }) => ({
          ...{ job, source, into, sentence, planned, written, kept, bytes, check, started, finished },
          output: outputs.get(job) ?? 0,
          failed: failed.length,
          losses: losses.filter(({ severity }) => severity !== 'note'),
        }),
      ),
    };
  }

  /** Ends the telling. */
  close(): void {
    for (const timer of this.timers.values()) clearTimeout(timer);
    this.timers.clear();
  }

  /** @returns how many jobs it was done with */
  private async each(id: string, states: Job['state'][], act: (job: string) => Promise<unknown>): Promise<number> {
    const { lights } = await this.get(id);
    const some = [...lights.values()].filter(({ state }) => states.includes(state));
    await Promise.all(some.map(({ id: job }) => acting(() => act(job))));
    return some.length;
  }

  private async get(id: string): Promise<Live> {
    const known = this.live.get(id);
    if (known) return known;
    const row = await this.store.batches.get(id);
    if (row) return this.load(row);
    throw new ShaleError({
      code: 'batch-not-found',
      fact: `There is no batch ${id}.`,
      wayOut: 'Choose one from the list of jobs.',
      subject: id,
    });
  }

  private async load(row: BatchRow): Promise<Live> {
    const live: Live = { row, lights: new Map(), began: undefined, finished: row.view?.finished ?? null };
    for (let offset = 0; ; offset += together) {
      const rows = await this.store.jobsOf(row.id, { offset, limit: together });
      for (const job of await this.jobs.viewsOf(rows)) this.take(live, job);
      if (rows.length < together) break;
    }
    // What was heard meanwhile is newer.
    const first = this.live.get(row.id);
    if (first) return first;
    this.live.set(row.id, live);
    return live;
  }

  private take(live: Live, job: Job): void {
    live.lights.set(job.id, lightOf(job));
    if (job.finished && job.finished > (live.finished ?? '')) live.finished = job.finished;
  }

  private heard(job: Job): void {
    const live = job.batch === null ? undefined : this.live.get(job.batch);
    if (live) {
      this.take(live, job);
      this.tellSoon(live);
    } else if (job.batch !== null) void this.get(job.batch).catch((error: unknown) => this.failed(job.batch!, error));
  }

  private failed(id: string, error: unknown): void {
    log('error', `batch ${id}: ${problemOf(error).fact}`);
  }

  private tellSoon(live: Live): void {
    const { id } = live.row;
    if (this.timers.has(id)) return;
    const timer = setTimeout(() => {
      this.timers.delete(id);
      const view = this.viewNow(live);
      this.events.send({ type: 'batch', batch: view });
      if (view.state !== 'running' && view.state !== 'queued')
        this.store.batches.put({ ...live.row, view }).catch((error: unknown) => this.failed(id, error));
    }, tellEvery);
    timer.unref();
    this.timers.set(id, timer);
  }

  private viewNow(live: Live): BatchView {
    const lights = [...live.lights.values()];
    const runs = lights.some(({ state }) => state === 'running');
    const done = lights.reduce((sum, one) => sum + one.done, 0);
    if (!runs) live.began = undefined;
    else live.began ??= { at: performance.now(), done };
    const since = live.began ? performance.now() - live.began.at : 0;
    const fresh = live.began ? done - live.began.done : 0;
    const rate = fresh >= enough.results && since >= enough.milliseconds ? (1000 * fresh) / since : null;
    return viewOf(live.row, lights, rate, live.finished);
  }
}
