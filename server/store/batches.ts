import { createHash } from 'node:crypto';
import type { Knex } from 'knex';
import { mostSources, ShaleError } from '@shale/core';
import type { JobState } from '@shale/contract';
import { readRow, readRows, type Row } from './rows.ts';
import { paged, type Page } from './paged.ts';

export type BatchRow = Row<'batches'>;

/** How many lists of sources are kept. */
const selectionsKept = 2000;

/** Batches, and lists of sources that an address can name. */
export class BatchTable {
  constructor(private readonly knex: Knex) {}

  async put({ batch, sources, refused, view, ...row }: BatchRow): Promise<void> {
    const texts = {
      batch: JSON.stringify(batch),
      sources: JSON.stringify(sources),
      refused: JSON.stringify(refused),
      view: view ? JSON.stringify(view) : null,
    };
    await this.knex('batches')
      .insert({ ...row, ...texts })
      .onConflict('id')
      .merge();
  }

  async get(id: string): Promise<BatchRow | undefined> {
    const row: unknown = await this.knex('batches').where({ id }).first();
    return row === undefined ? undefined : readRow('batches', row);
  }

  /** Batches, the newest first. */
  async list({ limit, before }: Page): Promise<BatchRow[]> {
    const asked = this.knex('batches').orderBy('created', 'desc');
    return readRows('batches', await paged(asked, 'created', limit, before));
  }

  /** Batches of which no job is left. */
  async removeEmpty(): Promise<void> {
    await this.knex('batches').whereNotExists(this.knex('jobs').whereRaw('jobs.batch = batches.id')).delete();
  }

  /** Ids of the jobs of a batch, in its order; those in some states alone, where they are given. */
  async jobs(batch: string, states?: readonly JobState[]): Promise<string[]> {
    const asked = this.knex('jobs').where({ batch }).orderBy('place').orderBy('id');
    return (states ? asked.whereIn('state', states) : asked).pluck('id');
  }

  /** Keeps a list of sources. @returns the same id for the same list */
  async keepSelection(sources: readonly string[]): Promise<string> {
    const text = JSON.stringify(sources);
    const id = createHash('sha256').update(text).digest('hex').slice(0, 16);
    await this.knex('selections').insert({ id, sources: text, created: Date.now() }).onConflict('id').merge();
    const old = await this.knex('selections').orderBy('created', 'desc').offset(selectionsKept).limit(100).pluck('id');
    if (old.length > 0) await this.knex('selections').whereIn('id', old).delete();
    return id;
  }

  /** @throws ShaleError `selection-not-found` */
  async selection(id: string): Promise<string[]> {
    const row: unknown = await this.knex('selections').where({ id }).first();
    if (row !== undefined) return readRow('selections', row).sources.slice(0, mostSources);
    throw new ShaleError({
      code: 'selection-not-found',
      fact: 'The list of sources of this address is no longer kept.',
      wayOut: 'Select the sources on Intake again.',
      subject: id,
    });
  }
}
