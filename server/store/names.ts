import type { Knex } from 'knex';
import {
  namingSpecSchema,
  receiverSchema,
  shippedReceivers,
  type NamingSpec,
  type Problem,
  type Receiver,
} from '@shale/core';
import type { ListedReceiver, Rename, SavedStack } from '@shale/contract';

/** A rename as it is remembered. */
export interface RenameRow extends Omit<Rename, 'settled' | 'created' | 'sources'> {
  /** Ids of sources before and after. */
  sources: [before: string, after: string][];
  /** Milliseconds since 1970. */
  created: number;
}

/** Renames, saved naming rules and receivers. */
export class Names {
  constructor(private readonly knex: Knex) {}

  async putRename(row: RenameRow): Promise<void> {
    const { sources, example, problem, ...rest } = row;
    await this.knex('renames')
      .insert({
        ...rest,
        sources: JSON.stringify(sources),
        example: example && JSON.stringify(example),
        problem: problem && JSON.stringify(problem),
      })
      .onConflict('id')
      .merge();
  }

  async listRenames(): Promise<RenameRow[]> {
    const rows = (await this.knex('renames').orderBy('created', 'desc').limit(500)) as (Omit<
      RenameRow,
      'sources' | 'example' | 'problem'
    > & { sources: string; example: string | null; problem: string | null })[];
    return rows.map((row) => ({
      ...row,
      created: Number(row.created),
      sources: JSON.parse(row.sources) as RenameRow['sources'],
      example: JSON.parse(row.example ?? 'null') as RenameRow['example'],
      problem: JSON.parse(row.problem ?? 'null') as Problem | null,
    }));
  }

  async listStacks(): Promise<SavedStack[]> {
    const rows = (await this.knex('stacks').orderBy('name')) as (Omit<SavedStack, 'spec'> & { spec: string })[];
    return rows.map((row) => ({ ...row, spec: namingSpecSchema.parse(JSON.parse(row.spec)) }));
  }

  async saveStack(name: string, spec: NamingSpec): Promise<SavedStack> {
    const kept = (await this.knex('stacks').where({ name }).first()) as { version: number } | undefined;
    const row = {
      name,
      version: (kept?.version ?? 0) + 1,
      spec: JSON.stringify(spec),
      saved: new Date().toISOString(),
    };
    await this.knex('stacks').insert(row).onConflict('name').merge();
    return (await this.listStacks()).find((one) => one.name === name)!;
  }

  async deleteStack(id: number): Promise<boolean> {
    return (await this.knex('stacks').where({ id }).delete()) > 0;
  }

  /** Shipped receivers in their order, changed or not, then those of one's own by name. */
  async listReceivers(): Promise<ListedReceiver[]> {
    const rows = (await this.knex('receivers')) as { id: string; receiver: string }[];
    const kept = new Map(rows.map(({ id, receiver }) => [id, receiverSchema.parse(JSON.parse(receiver))]));
    const shipped = Object.entries(shippedReceivers).map(([id, receiver]) => ({
      id,
      shipped: true,
      changed: kept.has(id),
      receiver: kept.get(id) ?? receiver,
    }));
    const own = [...kept]
      .filter(([id]) => !(id in shippedReceivers))
      .map(([id, receiver]) => ({ id, shipped: false, changed: false, receiver }))
      .sort((a, b) => a.receiver.name.localeCompare(b.receiver.name));
    return [...shipped, ...own];
  }

  async getReceiver(id: string): Promise<ListedReceiver | undefined> {
    return (await this.listReceivers()).find((one) => one.id === id);
  }

  async putReceiver(id: string, receiver: Receiver): Promise<ListedReceiver> {
    await this.knex('receivers')
      .insert({ id, receiver: JSON.stringify(receiver), saved: new Date().toISOString() })
      .onConflict('id')
      .merge();
    return (await this.getReceiver(id))!;
  }

  async deleteReceiver(id: string): Promise<boolean> {
    return (await this.knex('receivers').where({ id }).delete()) > 0;
  }
}
