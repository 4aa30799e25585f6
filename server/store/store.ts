import { setTimeout as wait } from 'node:timers/promises';
import knexModule, { type Knex } from 'knex';
import { createConnection, type Connection } from 'mysql2/promise';
import { specSchema, type Plan, type Receipt, type Spec } from '@shale/core';
import type { ReceiptEntry } from '@shale/contract';
import { connectionLimit, databaseAway, WatchedClient } from './away.ts';
import { BatchTable } from './batches.ts';
import type { Database } from './mariadb.ts';
import { migrations } from './migrations.ts';
import { Marks } from './marks.ts';
import { Names } from './names.ts';
import { priorities, readRow, readRows, type Row } from './rows.ts';
import { paged, type Page } from './paged.ts';
import { Shelf } from './shelf.ts';
import { Sources } from './sources.ts';
import { StandingTable } from './standing.ts';

export type { Page } from './paged.ts';
export type JobRow = Row<'jobs'>;
export type ScanRow = Row<'scans'>;
/** Files that come in together. */
export type ArrivalRow = Row<'arrivals'>;

/** What Shale remembers. Values are kept as JSON beside the columns that are searched. */
export class Store {
  readonly sources: Sources;
  readonly names: Names;
  readonly marks: Marks;
  readonly specs: Shelf<Spec>;
  readonly batches: BatchTable;
  readonly standing: StandingTable;

  private pinging: Connection | undefined;

  private constructor(
    private readonly knex: Knex,
    private readonly place: Pick<Database, 'host' | 'port' | 'user' | 'password' | 'database'>,
  ) {
    this.sources = new Sources(knex);
    this.names = new Names(knex);
    this.marks = new Marks(knex);
    this.specs = new Shelf(knex, 'specs', specSchema);
    this.batches = new BatchTable(knex);
    this.standing = new StandingTable(knex);
  }

  /** Opens the database and brings its schema up to date. */
  static async open({ host, port, user, password, database }: Database): Promise<Store> {
    const knex = knexModule.default({
      client: WatchedClient,
      connection: { host, port, user, password, database, charset: 'utf8mb4', connectTimeout: connectionLimit },
      pool: { min: 0, max: 6 },
      acquireConnectionTimeout: connectionLimit,
      compileSqlOnError: false,
    });
    await knex.migrate.latest({
      migrationSource: {
        getMigrations: async () => migrations.map(({ name }) => name),
        getMigrationName: (name: string) => name,
        getMigration: async (name: string) => ({
          up: migrations.find((one) => one.name === name)!.up,
          down: async () => undefined,
        }),
      },
    });
    return new Store(knex, { host, port, user, password, database });
  }

  async close(): Promise<void> {
    this.pinging?.destroy();
    await this.knex.destroy();
  }

  /**
   * Asks the database something that costs it nothing, by a connection of its own: that tells whether it is there though all others
   * wait. @throws ShaleError `database-away` where no answer comes within a time
   */
  async ping(limit: number): Promise<void> {
    try {
      this.pinging ??= await createConnection({ ...this.place, connectTimeout: limit });
      const late = new AbortController();
      const timer = wait(limit, undefined, { signal: late.signal }).then(() => {
        throw databaseAway();
      });
      await Promise.race([this.pinging.query('SELECT 1'), timer]).finally(() => late.abort());
      timer.catch(() => undefined);
    } catch (error) {
      this.pinging?.destroy();
      this.pinging = undefined;
      throw databaseAway(error);
    }
  }

  async putScan(row: ScanRow): Promise<void> {
    await this.knex('scans')
      .insert({ ...row, notes: JSON.stringify(row.notes) })
      .onConflict('root')
      .merge();
  }

  async listScans(): Promise<ScanRow[]> {
    return readRows('scans', await this.knex('scans'));
  }

  async putArrival(row: ArrivalRow): Promise<void> {
    await this.knex('arrivals')
      .insert({ ...row, files: JSON.stringify(row.files) })
      .onConflict('id')
      .merge();
  }

  async getArrival(by: { id: string } | { key: string } | { folder: string }): Promise<ArrivalRow | undefined> {
    const row: unknown = await this.knex('arrivals').where(by).orderBy('created', 'desc').first();
    return row === undefined ? undefined : readRow('arrivals', row);
  }

  async getPlan(id: string): Promise<Plan> {
    return readRow('plans', await this.knex('plans').where({ id }).first()).plan;
  }

  async putJob(row: JobRow): Promise<void> {
    await this.knex('jobs').insert(jobColumns(row)).onConflict('id').merge();
  }

  /** Jobs that wait or run, the oldest first. */
  async listOpenJobs(): Promise<JobRow[]> {
    return readRows('jobs', await this.knex('jobs').whereIn('state', ['queued', 'running']).orderBy('created'));
  }

  /** Jobs that are no part of a batch, the newest first. */
  async listJobs({ limit, before }: Page): Promise<JobRow[]> {
    const asked = this.knex('jobs').whereNull('batch').orderBy('created', 'desc');
    return readRows('jobs', await paged(asked, 'created', limit, before));
  }

  /** Jobs of a batch in its order. */
  async jobsOf(batch: string, { offset, limit }: { offset: number; limit: number }): Promise<JobRow[]> {
    const asked = this.knex('jobs').where({ batch }).orderBy('place').orderBy('id');
    return readRows('jobs', await asked.offset(offset).limit(limit));
  }

  /** Jobs that made the same results of the same source and are at rest, the newest first. */
  async listMadeAs(madeAs: string, limit: number): Promise<JobRow[]> {
    const asked = this.knex('jobs').where({ made_as: madeAs }).whereNotIn('state', ['queued', 'running']);
    return readRows('jobs', await asked.orderBy('created', 'desc').limit(limit));
  }

  /** Puts jobs and their plans in, all of them or none. */
  async putJobs(jobs: readonly { row: JobRow; plan: Plan }[]): Promise<void> {
    const made = new Date().toISOString();
    await this.knex.transaction(async (change) => {
      for (let at = 0; at < jobs.length; at += together) {
        const some = jobs.slice(at, at + together);
        await change('plans').insert(
          some.map(({ row, plan }) => ({ id: row.plan, source: row.source, plan: JSON.stringify(plan), made })),
        );
        await change('jobs').insert(some.map(({ row }) => jobColumns(row)));
      }
    });
  }

  async getJob(id: string): Promise<JobRow | undefined> {
    const row: unknown = await this.knex('jobs').where({ id }).first();
    return row === undefined ? undefined : readRow('jobs', row);
  }

  /** Jobs that came to rest before a time, the oldest first; those that may go on are not among them. */
  async listOldJobs(before: number, limit: number): Promise<string[]> {
    return this.knex('jobs')
      .whereIn('state', ['done', 'cancelled'])
      .where('created', '<', before)
      .orderBy('created')
      .limit(limit)
      .pluck('id');
  }

  /** All that the database holds of a job, as it holds it. */
  async jobWhole(id: string): Promise<{ job: unknown; plan: unknown; receipt: unknown }> {
    const job = (await this.knex('jobs').where({ id }).first()) as { plan: string };
    const plan: unknown = await this.knex('plans').where({ id: job.plan }).first();
    const receipt: unknown = (await this.knex('receipts').where({ job: id }).first()) ?? null;
    return { job, plan, receipt };
  }

  /** Removes a job with its receipt, and its plan where no other job has it. */
  async removeJob(id: string): Promise<void> {
    await this.knex.transaction(async (change) => {
      const job = await change('jobs').where({ id }).first<{ plan: string } | undefined>();
      await change('receipts').where({ job: id }).delete();
      await change('jobs').where({ id }).delete();
      if (job && !(await change('jobs').where({ plan: job.plan }).first()))
        await change('plans').where({ id: job.plan }).delete();
    });
  }

  /** Work on all tables, as a back-up is. */
  withAll<T>(work: (knex: Knex) => Promise<T>): Promise<T> {
    return work(this.knex);
  }

  async putReceipt(job: string, receipt: Receipt): Promise<void> {
    await this.knex('receipts')
      .insert({ job, receipt: JSON.stringify(receipt), made: Date.now() })
      .onConflict('job')
      .merge();
  }

  /** Receipts of jobs that are no part of a batch, the newest first. */
  async listReceipts({ limit, before }: Page): Promise<ReceiptEntry[]> {
    const asked = this.knex('receipts')
      .whereIn('job', this.knex('jobs').select('id').whereNull('batch'))
      .orderBy('made', 'desc');
    const rows = readRows('receipts', await paged(asked, 'made', limit, before));
    return rows.map(({ job, receipt }) => ({ ...receipt, job }));
  }

  /** Receipts of the jobs of a batch, in its order. */
  async receiptsOf(batch: string): Promise<ReceiptEntry[]> {
    const asked = this.knex('receipts').join('jobs', 'jobs.id', 'receipts.job').where('jobs.batch', batch);
    const rows: unknown[] = await asked
      .select('receipts.job', 'receipts.receipt')
      .orderBy('jobs.place')
      .orderBy('jobs.id');
    return readRows('receipts', rows).map(({ job, receipt }) => ({ ...receipt, job }));
  }

  async getReceipt(job: string): Promise<ReceiptEntry | undefined> {
    const row: unknown = await this.knex('receipts').where({ job }).first();
    return row === undefined ? undefined : { ...readRow('receipts', row).receipt, job };
  }
}

/** Rows that are put in at once. */
const together = 100;

const jobColumns = ({ workSeconds, madeAs, problem, priority, view, ...rest }: JobRow) => ({
  ...rest,
  made_as: madeAs,
  priority: priorities.indexOf(priority),
  view: view ? JSON.stringify(view) : null,
  work_seconds: workSeconds,
  problem: problem ? JSON.stringify(problem) : null,
});
