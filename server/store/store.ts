import { createHash, randomUUID } from 'node:crypto';
import knexModule, { type Knex } from 'knex';
import {
  declare,
  specSchema,
  type Plan,
  type Problem,
  type Receipt,
  type Source,
  type Spec,
  type Word,
} from '@shale/core';
import type { Job, ListedSource, ReceiptEntry, SavedSpec } from '@shale/contract';
import type { Database } from './mariadb.ts';
import { migrations } from './migrations.ts';

/** The id of a source: the same after every scan, fit for an address. */
export const sourceId = (root: string, folder: string, name: string): string =>
  createHash('sha256').update(`${root}\0${folder}\0${name}`).digest('hex').slice(0, 16);

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
}

/** What Shale remembers. Values are kept as JSON beside the columns that are searched. */
export class Store {
  private constructor(private readonly knex: Knex) {}

  /** Opens the database and brings its schema up to date. */
  static async open({ host, port, user, password, database }: Database): Promise<Store> {
    const knex = knexModule.default({
      client: 'mysql2',
      connection: { host, port, user, password, database, charset: 'utf8mb4' },
      pool: { min: 0, max: 6 },
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

  async putSources(root: string, sources: Source[], scan: number): Promise<void> {
    const rows = sources.map((source) => ({
      id: sourceId(root, source.folder, source.name),
      root,
      folder: source.folder,
      name: source.name,
      data: JSON.stringify(source),
      scan,
    }));
    for (let at = 0; at < rows.length; at += 100)
      await this.knex('sources')
        .insert(rows.slice(at, at + 100))
        .onConflict('id')
        .merge();
  }

  async dropSourcesBefore(root: string, scan: number): Promise<void> {
    await this.knex('sources').where({ root }).andWhere('scan', '<', scan).delete();
  }

  async listSources(root?: string): Promise<ListedSource[]> {
    const query = this.knex('sources')
      .leftJoin('words', 'words.source', 'sources.id')
      .select('sources.*', 'words.word');
    const rows = (await (root ? query.where({ root }) : query)) as SourceRow[];
    return rows
      .map(listed)
      .sort((a, b) => (`${a.root}/${a.folder}/${a.name}` < `${b.root}/${b.folder}/${b.name}` ? -1 : 1));
  }

  async getSource(id: string): Promise<ListedSource | undefined> {
    const row = (await this.knex('sources')
      .leftJoin('words', 'words.source', 'sources.id')
      .where('sources.id', id)
      .first('sources.*', 'words.word')) as SourceRow | undefined;
    return row && listed(row);
  }

  async countSources(): Promise<Map<string, number>> {
    const rows = (await this.knex('sources').select('root').count({ count: '*' }).groupBy('root')) as unknown as {
      root: string;
      count: number;
    }[];
    return new Map(rows.map(({ root, count }) => [root, Number(count)]));
  }

  async putWord(source: string, word: Word): Promise<void> {
    await this.knex('words')
      .insert({ source, word: JSON.stringify(word), changed: new Date().toISOString() })
      .onConflict('source')
      .merge();
  }

  async putScan(row: ScanRow): Promise<void> {
    await this.knex('scans').insert(row).onConflict('root').merge();
  }

  async listScans(): Promise<ScanRow[]> {
    const rows = (await this.knex('scans')) as ScanRow[];
    return rows.map((row) => ({ ...row, number: Number(row.number), bytes: Number(row.bytes) }));
  }

  async putPlan(source: string, plan: Plan): Promise<string> {
    const id = randomUUID();
    await this.knex('plans').insert({ id, source, plan: JSON.stringify(plan), made: new Date().toISOString() });
    return id;
  }

  async getPlan(id: string): Promise<Plan> {
    const row = (await this.knex('plans').where({ id }).first()) as { plan: string };
    return JSON.parse(row.plan) as Plan;
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

  async listSpecs(): Promise<SavedSpec[]> {
    const rows = (await this.knex('specs').orderBy('name')) as (Omit<SavedSpec, 'spec'> & { spec: string })[];
    return rows.map((row) => ({ ...row, spec: specSchema.parse(JSON.parse(row.spec)) }));
  }

  async saveSpec(name: string, spec: Spec): Promise<SavedSpec> {
    const kept = (await this.knex('specs').where({ name }).first()) as { version: number } | undefined;
    const row = {
      name,
      version: (kept?.version ?? 0) + 1,
      spec: JSON.stringify(spec),
      saved: new Date().toISOString(),
    };
    await this.knex('specs').insert(row).onConflict('name').merge();
    return (await this.listSpecs()).find((one) => one.name === name)!;
  }

  async deleteSpec(id: number): Promise<boolean> {
    return (await this.knex('specs').where({ id }).delete()) > 0;
  }
}

interface SourceRow {
  id: string;
  root: string;
  data: string;
  word: string | null;
}

function listed({ id, root, data, word }: SourceRow): ListedSource {
  const source = JSON.parse(data) as Source;
  return { ...source, id, root, declaration: declare(source, word ? (JSON.parse(word) as Word) : {}) };
}

const jobColumns = ({ workSeconds, problem, ...rest }: JobRow) => ({
  ...rest,
  work_seconds: workSeconds,
  problem: problem ? JSON.stringify(problem) : null,
});
