import { createHash, randomBytes } from 'node:crypto';
import { mkdir, readdir, rm, rmdir, stat, statfs, utimes, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { LRUCache } from 'lru-cache';
import { ShaleError } from '@shale/core';
import type { Arrival, OfferedFile } from '@shale/contract';
import { flush, publish } from '@shale/engine';
import { insideRoot } from '../roots/paths.ts';
import type { ArrivalRow, Store } from '../store/store.ts';
import { checkOffered, folderName } from './offered.ts';

/** Room that is left free on the disk, in bytes. */
const spare = 64 * 2 ** 20;

/** A file of an arrival: which, and where it goes. */
export interface Expected {
  arrival: ArrivalRow;
  index: number;
  file: OfferedFile;
}

/**
 * Files that browsers bring in. Each drop is an arrival with a folder of its own; what the browser names is checked once,
 * when the arrival is announced, and an upload afterwards only says its arrival and its place in it.
 */
export class Intake {
  private readonly arrivals = new LRUCache<string, ArrivalRow>({ max: 50 });

  constructor(
    /** The root in which arrivals get their folders. */
    readonly root: string,
    /** Where uploads wait until they are whole. */
    readonly partials: string,
    private readonly store: Store,
    /** Told the folder in which a file has arrived. */
    private readonly onArrived: (folder: string) => void,
  ) {}

  async begin(): Promise<void> {
    await mkdir(this.root, { recursive: true });
    await mkdir(this.partials, { recursive: true });
    // What nobody went on with for two weeks is given up.
    for (const name of await readdir(this.partials)) {
      const told = await stat(join(this.partials, name)).catch(() => undefined);
      if (told && Date.now() - told.mtimeMs > 14 * 86_400_000) await rm(join(this.partials, name), { force: true });
    }
  }

  /**
   * Opens an arrival, or finds the one of the very same files again, and tells which of them are there.
   * @throws ShaleError for a name that is not taken, or where the disk has no room for all
   */
  async announce(name: string, files: OfferedFile[]): Promise<Arrival> {
    checkOffered(files);
    const key = createHash('sha256')
      .update(JSON.stringify([name, files.map(({ path, size, modified }) => [path, size, Math.round(modified)])]))
      .digest('hex');
    const known = await this.store.getArrival({ key });
    // Nothing is left of what is refused, not even a folder.
    await this.refuseNoRoom(name, files, known ? await this.present(known) : new Set());
    const row = known ?? (await this.open(name, key, files));
    this.arrivals.set(row.id, row);
    const have = await this.present(row);
    await this.putEmpty(row, have);
    return {
      id: row.id,
      folder: row.folder,
      files: files.length,
      bytes: files.reduce((sum, { size }) => sum + size, 0),
      have: [...have].sort((a, b) => a - b),
    };
  }

  /**
   * The file that an upload says it is.
   * @throws ShaleError where there is no such arrival or place, or the size is another
   */
  async expected(
    arrival: string | null | undefined,
    index: string | null | undefined,
    size: number | undefined,
  ): Promise<Expected> {
    const id = arrival ?? '';
    const row = this.arrivals.get(id) ?? (await this.store.getArrival({ id }));
    const file = row?.files[Number(index)];
    if (!row || !file || !/^\d{1,6}$/.test(index ?? '')) {
      throw new ShaleError({
        code: 'arrival-not-found',
        fact: 'This upload was not announced.',
        wayOut: 'Drop the files again.',
      });
    }
    if (size !== file.size) {
      throw new ShaleError({
        code: 'source-changed',
        fact: `${file.path} was announced with ${file.size} bytes and now has ${size}.`,
        wayOut: 'Wait until it is complete, and drop it again.',
        subject: file.path,
      });
    }
    this.arrivals.set(row.id, row);
    return { arrival: row, index: Number(index), file };
  }

  /**
   * Gives a whole upload its name. A file that has it already is never touched: one of the same bytes counts as arrived.
   * @throws ShaleError where the name is taken by something else, or the disk refuses
   */
  async take(partial: string, { arrival, file }: Expected): Promise<void> {
    const { size } = await stat(partial);
    if (size !== file.size) throw new Error(`${file.path} has ${size} bytes of ${file.size}`);
    const final = await this.place(arrival, file);
    await mkdir(dirname(final), { recursive: true });
    await flush(partial);
    const time = new Date(file.modified);
    await utimes(partial, time, time);
    await publish(partial, final, false);
    await rm(`${partial}.json`, { force: true });
    this.arrived(arrival, file);
  }

  private arrived(arrival: ArrivalRow, file: OfferedFile): void {
    const at = file.path.lastIndexOf('/');
    this.onArrived(at < 0 ? arrival.folder : `${arrival.folder}/${file.path.slice(0, at)}`);
  }

  private place(arrival: ArrivalRow, file: OfferedFile): Promise<string> {
    return insideRoot(this.root, `${arrival.folder}/${file.path}`);
  }

  private async open(name: string, key: string, files: OfferedFile[]): Promise<ArrivalRow> {
    const wanted = folderName(name);
    let folder = wanted;
    // A folder that is there belongs to another drop, or to a person: this one gets a number.
    for (let number = 2; await stat(join(this.root, folder)).catch(() => undefined); number += 1)
      folder = `${wanted}-${number}`;
    await mkdir(join(this.root, folder));
    const row: ArrivalRow = {
      id: randomBytes(8).toString('hex'),
      key,
      folder,
      files,
      created: Date.now(),
      finished: false,
    };
    try {
      await this.store.putArrival(row);
    } catch (error) {
      await rmdir(join(this.root, folder)).catch(() => undefined);
      throw error;
    }
    return row;
  }

  /** Places of the files that are there, whole. */
  private async present(row: ArrivalRow): Promise<Set<number>> {
    const have = new Set<number>();
    for (const [index, file] of row.files.entries()) {
      const told = await stat(join(this.root, row.folder, file.path)).catch(() => undefined);
      if (told?.isFile() && told.size === file.size) have.add(index);
    }
    return have;
  }

  private async refuseNoRoom(name: string, files: readonly OfferedFile[], have: ReadonlySet<number>): Promise<void> {
    const needs = files.reduce((sum, { size }, index) => sum + (have.has(index) ? 0 : size), 0);
    const { bavail, bsize } = await statfs(this.root);
    const free = bavail * bsize;
    if (needs + Math.min(spare, free) <= free || needs === 0) return;
    const mib = (bytes: number) => `${Math.ceil(bytes / 2 ** 20).toLocaleString('en-GB')} MiB`;
    throw new ShaleError({
      code: 'disk-full',
      fact: `The disk has ${mib(free)} free, and these files need ${mib(needs)}.`,
      wayOut: 'Free some space, or upload fewer files; nothing was written.',
      subject: name,
    });
  }

  /** An empty file has nothing to upload. */
  private async putEmpty(row: ArrivalRow, have: Set<number>): Promise<void> {
    for (const [index, file] of row.files.entries()) {
      if (file.size > 0 || have.has(index)) continue;
      const final = await this.place(row, file);
      await mkdir(dirname(final), { recursive: true });
      await writeFile(final, '', { flag: 'wx' });
      const time = new Date(file.modified);
      await utimes(final, time, time);
      have.add(index);
      this.arrived(row, file);
    }
  }
}
