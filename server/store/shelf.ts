import type { Knex } from 'knex';
import type { z } from 'zod';
import { freeName } from '@shale/core';
import { keptSchema, readList } from './rows.ts';

/** Things kept under a name, as JSON, each with a version that grows when it is saved again. */
export class Shelf<T> {
  constructor(
    private readonly knex: Knex,
    private readonly table: 'specs' | 'stacks',
    /** Of what is kept. */
    private readonly schema: z.ZodType<T>,
  ) {}

  async list(): Promise<Kept<T>[]> {
    return readList(keptSchema(this.schema), this.table, await this.knex(this.table).orderBy('name'));
  }

  /** Keeps it under a name; what has that name already gets a new version. */
  async save(name: string, spec: T): Promise<Kept<T>> {
    const kept = (await this.knex(this.table).where({ name }).first()) as { version: number } | undefined;
    await this.knex(this.table)
      .insert({ ...this.row(name, spec), version: (kept?.version ?? 0) + 1 })
      .onConflict('name')
      .merge();
    return this.named(name);
  }

  /** Keeps it under this name, or one with a number behind it where that is taken: nothing that is kept changes. */
  async add(name: string, spec: T): Promise<Kept<T>> {
    for (;;) {
      const taken = new Set((await this.knex(this.table).select<{ name: string }[]>('name')).map((one) => one.name));
      const free = freeName(name, taken);
      const [id] = await this.knex(this.table).insert(this.row(free, spec)).onConflict('name').ignore();
      // Another tab may have taken the name in between.
      if (id) return this.named(free);
    }
  }

  async remove(id: number): Promise<boolean> {
    return (await this.knex(this.table).where({ id }).delete()) > 0;
  }

  private row(name: string, spec: T) {
    return { name, version: 1, spec: JSON.stringify(spec), saved: new Date().toISOString() };
  }

  private async named(name: string): Promise<Kept<T>> {
    return (await this.list()).find((one) => one.name === name)!;
  }
}

/** Something that is kept under a name. */
export interface Kept<T> {
  id: number;
  name: string;
  version: number;
  spec: T;
  /** ISO 8601. */
  saved: string;
}
