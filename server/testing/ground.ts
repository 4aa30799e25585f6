import { mkdir, mkdtemp, rm, utimes } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { makePlan, parseSpec, type Given, type Image, type Plan } from '@shale/core';
import type { ListedSource, ServerEvent } from '@shale/contract';
import { WorkerPool } from '@shale/engine';
import { usualSettings, writeStill } from '@shale/media';
import { Events } from '../events.ts';
import { Jobs } from '../jobs/jobs.ts';
import type { RootConfig } from '../roots/config.ts';
import { AddedFolders } from '../roots/folders.ts';
import { Roots } from '../roots/roots.ts';
import { startDatabase, type Database } from '../store/mariadb.ts';
import { sourceId } from '../store/sources.ts';
import { Store } from '../store/store.ts';

/** Small pictures that differ by their frame. */
export const pictureOf = (frame: number): Image => ({
  width: 4,
  height: 2,
  channels: 3,
  sample: 'u8',
  data: Uint8Array.from({ length: 24 }, (_, at) => (at * 7 + frame * 31) & 255),
});

/** What the server's classes stand on, for real: a database, worker processes, folders. For tests. */
export class Ground {
  readonly told: ServerEvent[] = [];
  readonly events = new Events();
  readonly pool = new WorkerPool(2);
  store!: Store;
  roots!: Roots;
  private database!: Database;

  private constructor(readonly folder: string) {
    const send = this.events.send.bind(this.events);
    this.events.send = (event) => {
      this.told.push(event);
      send(event);
    };
  }

  /** A root to read, `shots`, one to write, `out`, and another to read, `more`. */
  static async make(): Promise<Ground> {
    const ground = new Ground(await mkdtemp(join(tmpdir(), 'shale-ground-')));
    for (const name of ['shots', 'out', 'more', 'home', 'readings', 'journal'])
      await mkdir(join(ground.folder, name), { recursive: true });
    ground.database = await startDatabase(join(ground.folder, 'db'));
    ground.store = await Store.open(ground.database);
    ground.roots = ground.makeRoots();
    return ground;
  }

  private makeRoots(): Roots {
    const root = (id: string, writable: boolean): RootConfig => ({ id, name: id, path: this.in(id), writable });
    return new Roots(
      [root('shots', true), root('out', true), root('more', false)],
      {
        store: this.store,
        pool: this.pool,
        send: (event) => this.events.send(event),
        readings: this.in('readings'),
        quiet: 500,
      },
      this.folders(),
    );
  }

  private folders(): AddedFolders {
    return new AddedFolders(this.in('folders.json'), [this.in('home')], this.in('journal'));
  }

  in(...path: string[]): string {
    return join(this.folder, ...path);
  }

  jobs(): Jobs {
    return new Jobs(this.store, this.roots, this.pool, this.events, this.in('journal'));
  }

  /** Writes numbered PNG pictures, an hour old, into a folder of a root. */
  async put(root: string, folder: string, stem: string, frames: readonly number[]): Promise<void> {
    await mkdir(this.in(root, folder), { recursive: true });
    const hourAgo = new Date(Date.now() - 3_600_000);
    for (const frame of frames) {
      const path = this.in(root, folder, `${stem}.${String(frame).padStart(4, '0')}.png`);
      await rm(path, { force: true });
      await writeStill(path, 'png', pictureOf(frame), usualSettings);
      await utimes(path, hourAgo, hourAgo);
    }
  }

  /** A source of the last scan. */
  async source(root: string, folder: string, name: string): Promise<ListedSource> {
    const source = await this.store.sources.get(sourceId(root, folder, name));
    if (!source) throw new Error(`the scan did not find ${folder}/${name}`);
    return source;
  }

  /** A plan of a source into a folder of `out`. */
  planOf(source: ListedSource, folder: string, more: object = {}, given: Given = {}): Plan {
    const spec = parseSpec({
      version: 1,
      write: { format: 'tiff', sample: 'u8', alpha: 'none', transfer: 'srgb' },
      into: { root: 'out', folder },
      ...more,
    });
    return makePlan(source.root, source, source.declaration, spec, given);
  }

  async leave(): Promise<void> {
    await this.roots.close();
    await this.pool.close();
    await this.store.close();
    await this.database.stop();
    await rm(this.folder, { recursive: true, force: true });
  }
}

/** Waits until something is so. @throws after 45 seconds: a busy machine takes its time */
export async function until(isSo: () => boolean | Promise<boolean>, what: string): Promise<void> {
  for (const began = Date.now(); Date.now() - began < 45_000;) {
    if (await isSo()) return;
    await new Promise((done) => setTimeout(done, 20));
  }
  throw new Error(`it did not come to this in 45 seconds: ${what}`);
}
