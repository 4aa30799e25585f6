import type { Knex } from 'knex';
import { namingSpecSchema, shippedReceivers, ShaleError, type NamingSpec, type Receiver } from '@shale/core';
import type { ListedReceiver } from '@shale/contract';
import { readRows, type Row } from './rows.ts';
import { Shelf } from './shelf.ts';

/** A rename as it is remembered. */
export type RenameRow = Row<'renames'>;

/** Renames, saved naming rules and receivers. */
export class Names {
  readonly stacks: Shelf<NamingSpec>;

  constructor(private readonly knex: Knex) {
    this.stacks = new Shelf(knex, 'stacks', namingSpecSchema);
  }

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
    return readRows('renames', await this.knex('renames').orderBy('created', 'desc').limit(500));
  }

  /** Shipped receivers in their order, changed or not, then those of one's own by name. */
  async listReceivers(): Promise<ListedReceiver[]> {
    const rows = readRows('receivers', await this.knex('receivers'));
    const kept = new Map(rows.map(({ id, receiver }) => [id, receiver]));
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

  /** @throws ShaleError `receiver-not-found` */
  async getReceiver(id: string): Promise<ListedReceiver> {
    const found = (await this.listReceivers()).find((one) => one.id === id);
    if (found) return found;
    throw new ShaleError({
      code: 'receiver-not-found',
      fact: `There is no receiver "${id}".`,
      wayOut: 'Choose one on Specs & receivers.',
      subject: id,
    });
  }

  async putReceiver(id: string, receiver: Receiver): Promise<ListedReceiver> {
    await this.knex('receivers')
      .insert({ id, receiver: JSON.stringify(receiver), saved: new Date().toISOString() })
      .onConflict('id')
      .merge();
    return await this.getReceiver(id);
  }

  async deleteReceiver(id: string): Promise<boolean> {
    return (await this.knex('receivers').where({ id }).delete()) > 0;
  }
}
