import type { Knex } from 'knex';
import { markersInOrder, ShaleError, type Cadence } from '@shale/core';
import type { SourceMarkers } from '@shale/contract';
import { readRow } from './rows.ts';

/** What was marked on sources, and what was found of how their frames follow one another. */
export class Marks {
  constructor(private readonly knex: Knex) {}

  async markers(source: string): Promise<SourceMarkers> {
    const row: unknown = await this.knex('markers').where({ source }).first();
    return row === undefined ? { version: 0, markers: [] } : readRow('markers', row);
  }

  /** @throws ShaleError `markers-changed` where somebody changed them since that version */
  async putMarkers(source: string, { version, markers }: SourceMarkers): Promise<SourceMarkers> {
    const sorted = markersInOrder(markers);
    const row = { markers: JSON.stringify(sorted), version: version + 1, changed: new Date().toISOString() };
    const done =
      version === 0
        ? await this.knex('markers')
            .insert({ source, ...row })
            .onConflict('source')
            .ignore()
            .then(() => this.markers(source))
            .then((now) => (now.version === 1 && JSON.stringify(now.markers) === row.markers ? 1 : 0))
        : await this.knex('markers').where({ source, version }).update(row);
    if (done === 0) {
      throw new ShaleError({
        code: 'markers-changed',
        fact: 'The markers were changed elsewhere in the meantime.',
        wayOut: 'Check them as they are now, and change them again.',
        subject: source,
      });
    }
    return { version: version + 1, markers: sorted };
  }

  /** What was found of a source that was as it is now. @param as what tells it from its earlier self */
  async cadence(source: string, as: string): Promise<Cadence | null> {
    const row: unknown = await this.knex('cadences').where({ source, is_of: as }).first();
    return row === undefined ? null : readRow('cadences', row).cadence;
  }

  async putCadence(source: string, as: string, cadence: Cadence): Promise<void> {
    await this.knex('cadences')
      .insert({ source, is_of: as, cadence: JSON.stringify(cadence) })
      .onConflict('source')
      .merge();
  }

  /** Lets the markers of sources hold for others: the same files under new names. */
  async carryOver(pairs: readonly (readonly [from: string, to: string])[]): Promise<void> {
    for (const [from, to] of pairs) {
      if (from === to) continue;
      const { markers } = await this.markers(from);
      if (markers.length === 0) continue;
      const row = { markers: JSON.stringify(markers), version: 1, changed: new Date().toISOString() };
      await this.knex('markers')
        .insert({ source: to, ...row })
        .onConflict('source')
        .merge();
    }
  }
}
