import { mkdir } from 'node:fs/promises';
import { problemOf, ShaleError, type Problem } from '@shale/core';
import type { Root } from '@shale/contract';
import { scanFolders, withFacts, type WorkerPool } from '@shale/engine';
import type { Events } from '../events.ts';
import type { Store } from '../store/store.ts';
import type { RootConfig } from './config.ts';

/** The roots, and their scans: one at a time for each root. */
export class Roots {
  private readonly scanning = new Map<string, Promise<void>>();
  private readonly problems = new Map<string, Problem>();
  private readonly stop = new AbortController();

  constructor(
    private readonly configs: RootConfig[],
    private readonly store: Store,
    private readonly pool: WorkerPool,
    private readonly events: Events,
  ) {}

  /** @throws ShaleError `root-not-found` */
  config(id: string): RootConfig {
    const config = this.configs.find((root) => root.id === id);
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
      fact: `The root "${config.name}" may only be read.`,
      wayOut: `Write into ${this.configs
        .filter((root) => root.writable)
        .map((root) => root.id)
        .join(' or ')}.`,
      subject: 'into.root',
    });
  }

  async list(): Promise<Root[]> {
    const [counts, scans] = await Promise.all([this.store.countSources(), this.store.listScans()]);
    return this.configs.map((config) => {
      const scan = scans.find(({ root }) => root === config.id);
      return {
        ...config,
        sources: counts.get(config.id) ?? 0,
        files: scan?.files ?? 0,
        bytes: scan?.bytes ?? 0,
        scanned: scan?.finished ?? null,
        scanning: this.scanning.has(config.id),
        problem: this.problems.get(config.id) ?? null,
      };
    });
  }

  async get(id: string): Promise<Root> {
    this.config(id);
    return (await this.list()).find((root) => root.id === id)!;
  }

  /** Makes the writable roots and scans what was never scanned. */
  async begin(): Promise<void> {
    for (const root of this.configs.filter(({ writable }) => writable)) {
      await mkdir(root.path, { recursive: true }).catch((error: unknown) =>
        this.problems.set(root.id, problemOf(error)),
      );
    }
    for (const { id } of this.configs) void this.scan(id);
  }

  /** Scans a root; a second call while one is under way waits for that one. */
  scan(id: string): Promise<void> {
    const running = this.scanning.get(id);
    if (running) return running;
    const work = this.scanNow(this.config(id)).finally(async () => {
      this.scanning.delete(id);
      if (!this.stop.signal.aborted) this.events.send({ type: 'root', root: await this.get(id) });
    });
    this.scanning.set(id, work);
    return work;
  }

  /** Lets scans end. */
  async close(): Promise<void> {
    this.stop.abort();
    await Promise.allSettled([...this.scanning.values()]);
  }

  private async scanNow({ id, path }: RootConfig): Promise<void> {
    const { signal } = this.stop;
    try {
      const last = (await this.store.listScans()).find(({ root }) => root === id);
      const number = Math.max(Date.now(), (last?.number ?? 0) + 1);
      let files = 0;
      let bytes = 0;
      for await (const scanned of scanFolders(path, signal)) {
        const sources = scanned.sources.length > 0 ? await withFacts(path, scanned.sources, this.pool, signal) : [];
        files += sources.reduce((sum, source) => sum + source.files, 0) + scanned.other.length;
        bytes += sources.reduce((sum, source) => sum + source.bytes, 0);
        if (sources.length === 0) continue;
        await this.store.putSources(id, sources, number);
        this.events.send({ type: 'sources', root: id });
      }
      if (signal.aborted) return;
      await this.store.dropSourcesBefore(id, number);
      await this.store.putScan({ root: id, number, files, bytes, finished: new Date().toISOString() });
      this.problems.delete(id);
      this.events.send({ type: 'sources', root: id });
    } catch (error) {
      if (!signal.aborted) this.problems.set(id, problemOf(error));
    }
  }
}
