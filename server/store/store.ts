import { randomUUID } from 'node:crypto';
import knexModule, { type Knex } from 'knex';
import { planSchema, specSchema, type Plan, type Problem, type Receipt, type Spec } from '@shale/core';
import type { Job, OfferedFile, ReceiptEntry } from '@shale/contract';
import { connectionLimit, databaseAway, WatchedClient } from './away.ts';
import type { Database } from './mariadb.ts';
import { migrations } from './migrations.ts';
import { Marks } from './marks.ts';
import { Names } from './names.ts';
import { Shelf } from './shelf.ts';
import { Sources } from './sources.ts';

export interface JobRow {
  id: string;
  plan: string;
  source: string;
  state: Job['state'];
  workSeconds: number;
  problem: Problem | null;
  created: number;
  started: string | null;
  finished: string | null;
}

export interface ScanRow {
  root: string;
  number: number;
  files: number;
  bytes: number;
  finished: string;
  /** What could not be read, and why. */
  notes: Problem[];
}

/** Files that come in together. */
export interface BatchRow {
  id: string;
  /** The same for the same files. */
  key: string;
  folder: string;
  files: OfferedFile[];
  created: number;
  finished: boolean;
}

/** What Shale remembers. Values are kept as JSON beside the columns that are searched. */
export class Store {
  readonly sources: Sources;
  readonly names: Names;
  readonly marks: Marks;
  readonly specs: Shelf<Spec>;

  private constructor(private readonly knex: Knex) {
    this.sources = new Sources(knex);
    this.names = new Names(knex);
    this.marks = new Marks(knex);
    this.specs = new Shelf(knex, 'specs', (value) => specSchema.parse(value));
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
    return new Store(knex);
  }

  close(): Promise<void> {
    return this.knex.destroy();
  }

  /** Asks the database something that costs it nothing. @throws ShaleError `database-away` where no answer comes within a time */
  async ping(limit: number): Promise<void> {
    let timer: NodeJS.Timeout | undefined;
    const late = new Promise<never>((_, reject) => {
      timer = setTimeout(() => reject(databaseAway()), limit);
    });
    try {
      await Promise.race([this.knex.raw('SELECT 1'), late]);
    } finally {
      clearTimeout(timer);
    }
  }

  async putScan(row: ScanRow): Promise<void> {
    await this.knex('scans')
      .insert({ ...row, notes: JSON.stringify(row.notes) })
      .onConflict('root')
      .merge();
  }

  async listScans(): Promise<ScanRow[]> {
    const rows = (await this.knex('scans')) as (Omit<ScanRow, 'notes'> & { notes: string | null })[];
    return rows.map((row) => ({
      ...row,
      number: Number(row.number),
      bytes: Number(row.bytes),
      notes: JSON.parse(row.notes ?? '[]') as Problem[],
    }));
  }

  async putBatch(row: BatchRow): Promise<void> {
    await this.knex('batches')
      .insert({ ...row, files: JSON.stringify(row.files) })
      .onConflict('id')
      .merge();
  }

  async getBatch(by: { id: string } | { key: string } | { folder: string }): Promise<BatchRow | undefined> {
    const row = (await this.knex('batches').where(by).orderBy('created', 'desc').first()) as
      (Omit<BatchRow, 'files'> & { files: string }) | undefined;
    return (
      row && {
        ...row,
        files: JSON.parse(row.files) as OfferedFile[],
        created: Number(row.created),
        finished: Boolean(row.finished),
      }
    );
  }

  async putPlan(source: string, plan: Plan): Promise<string> {
    const id = randomUUID();
    await this.knex('plans').insert({ id, source, plan: JSON.stringify(plan), made: new Date().toISOString() });
    return id;
  }

  async getPlan(id: string): Promise<Plan> {
    const row = (await this.knex('plans').where({ id }).first()) as { plan: string };
    return planSchema.parse(JSON.parse(row.plan));
  }

  async putJob(row: JobRow): Promise<void> {
    await this.knex('jobs').insert(jobColumns(row)).onConflict('id').merge();
  }

  async listJobs(): Promise<JobRow[]> {
    const rows = (await this.knex('jobs').orderBy('created', 'desc').limit(500)) as Record<string, unknown>[];
    return rows.map((row) => ({
      id: row.id as string,
      plan: row.plan as string,
      source: row.source as string,
      state: row.state as Job['state'],
      workSeconds: row.work_seconds as number,
      problem: row.problem ? (JSON.parse(row.problem as string) as Problem) : null,
      created: Number(row.created),
      started: row.started as string | null,
      finished: row.finished as string | null,
    }));
  }

  async putReceipt(job: string, receipt: Receipt): Promise<void> {
    await this.knex('receipts')
      .insert({ job, receipt: JSON.stringify(receipt), made: Date.now() })
      .onConflict('job')
      .merge();
  }

  async listReceipts(): Promise<ReceiptEntry[]> {
    const rows = (await this.knex('receipts').orderBy('made', 'desc').limit(500)) as { job: string; receipt: string }[];
    return rows.map(({ job, receipt }) => ({ ...(JSON.parse(receipt) as Receipt), job }));
  }

  async getReceipt(job: string): Promise<ReceiptEntry | undefined> {
    const row = (await this.knex('receipts').where({ job }).first()) as { receipt: string } | undefined;
    return row && { ...(JSON.parse(row.receipt) as Receipt), job };
  }
}

const jobColumns = ({ workSeconds, problem, ...rest }: JobRow) => ({
  ...rest,
  work_seconds: workSeconds,
  problem: problem ? JSON.stringify(problem) : null,
});
