import type { Knex } from 'knex';
import type { Decision } from '@shale/contract';
import { readRow, readRows, type Row } from './rows.ts';

export type StandingRow = Row<'standing_orders'>;
/** What was decided of a source last, and what it was then. */
export type LookRow = Row<'looks'>;

/** Decisions of an order that are kept. */
const decisionsKept = 5000;

/** Standing orders and what they decided. */
export class StandingTable {
  /** Decisions noted since old ones were last taken away. */
  private noted = 0;

  constructor(private readonly knex: Knex) {}

  async list(): Promise<StandingRow[]> {
    return readRows('standing_orders', await this.knex('standing_orders').orderBy('created', 'desc'));
  }

  async put({ order, ...row }: StandingRow): Promise<void> {
    await this.knex('standing_orders')
      .insert({ ...row, standing_order: JSON.stringify(order) })
      .onConflict('id')
      .merge();
  }

  /** Takes an order away with what it decided. */
  async remove(id: string): Promise<void> {
    await this.knex('looks').where({ standing: id }).delete();
    await this.knex('decisions').where({ standing: id }).delete();
    await this.knex('standing_orders').where({ id }).delete();
  }

  async looks(standing: string): Promise<LookRow[]> {
    return readRows('looks', await this.knex('looks').where({ standing }));
  }

  async putLooks(standing: string, looks: readonly LookRow[]): Promise<void> {
    for (let at = 0; at < looks.length; at += 500)
      await this.knex('looks')
        .insert(looks.slice(at, at + 500).map((look) => ({ standing, ...look })))
        .onConflict(['standing', 'source'])
        .merge();
  }

  async forgetLooks(standing: string): Promise<void> {
    await this.knex('looks').where({ standing }).delete();
  }

  async note(standing: string, decisions: readonly Omit<Decision, 'id'>[]): Promise<void> {
    for (let at = 0; at < decisions.length; at += 500)
      await this.knex('decisions').insert(
        decisions
          .slice(at, at + 500)
          .map(({ source, ...one }) => ({ standing, ...one, source: source ? JSON.stringify(source) : null })),
      );
    this.noted += decisions.length;
    if (this.noted < decisionsKept / 10) return;
    this.noted = 0;
    const [last] = await this.knex('decisions')
      .where({ standing })
      .orderBy('id', 'desc')
      .offset(decisionsKept)
      .limit(1)
      .pluck<number[]>('id');
    if (last !== undefined) await this.knex('decisions').where({ standing }).andWhere('id', '<=', last).delete();
  }

  /** What an order decided, the newest first. @param before the id of the oldest that was read */
  async log(standing: string, limit: number, before?: number): Promise<Decision[]> {
    const asked = this.knex('decisions').where({ standing }).orderBy('id', 'desc').limit(limit);
    const rows: unknown[] = await (before === undefined ? asked : asked.andWhere('id', '<', before));
    return readRows('decisions', rows);
  }

  /** The last batch that an order began. */
  async lastBatch(standing: string): Promise<string | null> {
    const row: unknown = await this.knex('batches').where({ standing }).orderBy('created', 'desc').first();
    return row === undefined ? null : readRow('batches', row).id;
  }
}
