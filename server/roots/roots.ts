import { mkdir } from 'node:fs/promises';
import { problemOf, ShaleError } from '@shale/core';
import type { NewRoot, Root } from '@shale/contract';
import type { Checked, KeptFolder } from '@shale/engine';
import { isAway } from '../store/away.ts';
import type { RootConfig } from './config.ts';
import type { AddedFolders } from './folders.ts';
import { Scanning, type Ground } from './scanning.ts';

/** The roots, each with its scans. */
export class Roots {
  private readonly scans: Map<string, Scanning>;

  constructor(
    private readonly configs: RootConfig[],
    private readonly ground: Ground,
    private readonly folders?: AddedFolders,
  ) {
    this.scans = new Map(configs.map((config) => [config.id, this.scanning(config)]));
  }

  private scanning(config: RootConfig): Scanning {
    return new Scanning(config, this.ground, () => void this.tell(config.id));
  }

  /** Folders that may be added. @throws ShaleError where none may be */
  get added(): AddedFolders {
    if (this.folders) return this.folders;
    throw new ShaleError({
      code: 'outside-places',
      fact: 'Folders cannot be added here.',
      wayOut: 'Add it to shale.config.json, and start Shale again.',
    });
  }

  /** Makes a root of a folder, and scans it. @throws ShaleError as {@link AddedFolders.add} */
  async add(wanted: NewRoot, anywhere = false): Promise<Root> {
    const config = await this.added.add(wanted, this.configs, anywhere);
    // Those of one's own come before those that Shale brings along.
    this.configs.unshift(config);
    this.scans.set(config.id, this.scanning(config));
    void this.scan(config.id);
    return this.get(config.id);
  }

  /** Takes an added folder off the list; nothing on the disk is touched. @throws ShaleError `not-added` */
  async remove(id: string): Promise<void> {
    await this.added.remove(id);
    await this.scans.get(id)?.close();
    this.scans.delete(id);
    this.configs.splice(
      this.configs.findIndex((config) => config.id === id),
      1,
    );
    await this.ground.store.sources.dropRoot(id);
    this.ground.send({ type: 'sources', root: id });
  }

  /** Undefined for a root that this server does not have. */
  find(id: string): RootConfig | undefined {
    return this.configs.find((root) => root.id === id);
  }

  /** @throws ShaleError `root-not-found` */
  config(id: string): RootConfig {
    const config = this.find(id);
    if (config) return config;
    throw new ShaleError({
      code: 'root-not-found',
      fact: `There is no root "${id}".`,
      wayOut: `Choose one of ${this.configs.map((root) => root.id).join(', ')}, or add it to shale.config.json.`,
      subject: id,
    });
  }

  /** @throws ShaleError `root-read-only` */
  writable(id: string): RootConfig {
    const config = this.config(id);
    if (config.writable) return config;
    throw new ShaleError({
      code: 'root-read-only',
      fact: `The root "${config.name}" is read-only.`,
      wayOut: `Write into ${this.configs
        .filter((root) => root.writable)
        .map((root) => root.id)
        .join(' or ')}.`,
      subject: 'into.root',
    });
  }

  /** The id of the first root that may be written. */
  firstWritable(): string {
    return this.configs.find(({ writable }) => writable)!.id;
  }

  async list(): Promise<Root[]> {
    const { store } = this.ground;
    const [counts, scans] = await Promise.all([store.sources.countByRoot(), store.listScans()]);
    return this.configs.map((config) => {
      const last = scans.find(({ root }) => root === config.id);
      const scan = this.scans.get(config.id)!;
      return {
        id: config.id,
        name: config.name,
        path: config.path,
        writable: config.writable,
        added: config.added ?? false,
        sources: counts.get(config.id) ?? 0,
        files: last?.files ?? 0,
        bytes: last?.bytes ?? 0,
        scanned: last?.finished ?? null,
        scanning: scan.running,
        progress: scan.progress,
        problem: scan.problem,
        notes: last?.notes ?? [],
      };
    });
  }

  async get(id: string): Promise<Root> {
    this.config(id);
    return (await this.list()).find((root) => root.id === id)!;
  }

  /** Makes Shale's own roots and those that may be written, and scans all. */
  async begin(): Promise<void> {
    for (const { id, path } of this.configs.filter(({ writable, own }) => writable || own)) {
      await mkdir(path, { recursive: true }).catch((error: unknown) => {
        this.scans.get(id)!.problem = problemOf(error);
      });
    }
    this.scanAll();
  }

  /** Scans all roots. */
  scanAll(): void {
    for (const { id } of this.configs) void this.scan(id);
  }

  /** Scans a root; a second call while one is under way waits for that one. */
  scan(id: string): Promise<void> {
    this.config(id);
    return this.scans.get(id)!.scan();
  }

  /** Scans one folder of a root again, soon. */
  rescan(id: string, folder: string): void {
    this.config(id);
    this.scans.get(id)!.rescan(folder);
  }

  /** Scans a folder that Shale itself has finished writing into: nothing there is still being written. */
  finished(id: string, folder: string): void {
    this.scans.get(id)?.finished(folder);
  }

  /** Where what was read of a folder is kept; undefined for a root that this server does not have. */
  readingsOf(id: string, folder: string): string | undefined {
    return this.scans.get(id)?.readingsOf(folder);
  }

  /** What was read of a folder at its last scan. */
  known(id: string, folder: string): Promise<KeptFolder> {
    this.config(id);
    return this.scans.get(id)!.known(folder);
  }

  /** Enters what a check of every frame found, and waits until the sources tell of it. */
  async enter(id: string, folder: string, files: Checked): Promise<void> {
    await this.scans.get(id)?.enter(folder, files);
  }

  /** Waits until no scan of a root is under way; none for one that this server does not have. */
  async rested(id: string): Promise<void> {
    await this.scans.get(id)?.rested();
  }

  /** Ends a scan; what it found stays. */
  async stopScan(id: string): Promise<void> {
    this.config(id);
    await this.scans.get(id)!.halt();
  }

  /** Ends all scans and stops watching. */
  async close(): Promise<void> {
    await Promise.all([...this.scans.values()].map((scan) => scan.close()));
  }

  private async tell(id: string): Promise<void> {
    try {
      this.ground.send({ type: 'root', root: await this.get(id) });
    } catch (error) {
      // Pages ask for the roots again when the database is back.
      if (!isAway(error)) throw error;
    }
  }
}
