import { randomUUID } from 'node:crypto';
import knexModule, { type Knex } from 'knex';
import { specSchema, type Plan, type Receipt, type Spec } from '@shale/core';
import type { ReceiptEntry } from '@shale/contract';
import { connectionLimit, databaseAway, WatchedClient } from './away.ts';
import type { Database } from './mariadb.ts';
import { migrations } from './migrations.ts';
import { Marks } from './marks.ts';
import { Names } from './names.ts';
import { readRow, readRows, type Row } from './rows.ts';
import { Shelf } from './shelf.ts';
import { Sources } from './sources.ts';

export type JobRow = Row<'jobs'>;
export type ScanRow = Row<'scans'>;
/** Files that come in together. */
export type BatchRow = Row<'batches'>;

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
    this.specs = new Shelf(knex, 'specs', specSchema);
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
    return readRows('scans', await this.knex('scans'));
  }

  async putBatch(row: BatchRow): Promise<void> {
    await this.knex('batches')
      .insert({ ...row, files: JSON.stringify(row.files) })
      .onConflict('id')
      .merge();
  }

  async getBatch(by: { id: string } | { key: string } | { folder: string }): Promise<BatchRow | undefined> {
    const row: unknown = await this.knex('batches').where(by).orderBy('created', 'desc').first();
    return row === undefined ? undefined : readRow('batches', row);
  }

  async putPlan(source: string, plan: Plan): Promise<string> {
    const id = randomUUID();
    await this.knex('plans').insert({ id, source, plan: JSON.stringify(plan), made: new Date().toISOString() });
    return id;
  }

  async getPlan(id: string): Promise<Plan> {
    return readRow('plans', await this.knex('plans').where({ id }).first()).plan;
  }

  async putJob(row: JobRow): Promise<void> {
    await this.knex('jobs').insert(jobColumns(row)).onConflict('id').merge();
  }

  async listJobs(): Promise<JobRow[]> {
    return readRows('jobs', await this.knex('jobs').orderBy('created', 'desc').limit(500));
  }

  async putReceipt(job: string, receipt: Receipt): Promise<void> {
    await this.knex('receipts')
      .insert({ job, receipt: JSON.stringify(receipt), made: Date.now() })
      .onConflict('job')
      .merge();
  }

  async listReceipts(): Promise<ReceiptEntry[]> {
    const rows = readRows('receipts', await this.knex('receipts').orderBy('made', 'desc').limit(500));
    return rows.map(({ job, receipt }) => ({ ...receipt, job }));
  }

  async getReceipt(job: string): Promise<ReceiptEntry | undefined> {
    const row: unknown = await this.knex('receipts').where({ job }).first();
    return row === undefined ? undefined : { ...readRow('receipts', row).receipt, job };
  }
}

const jobColumns = ({ workSeconds, problem, ...rest }: JobRow) => ({
  ...rest,
  work_seconds: workSeconds,
  problem: problem ? JSON.stringify(problem) : null,
});
