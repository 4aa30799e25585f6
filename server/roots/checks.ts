import { join } from 'node:path';
import pLimit from 'p-limit';
import { isAnimation, isVideo, problemOf } from '@shale/core';
import type { FrameCheck, ListedSource, ServerEvent } from '@shale/contract';
import { checkSource, type Checked, type WorkerPool } from '@shale/engine';
import type { Roots } from './roots.ts';

/** How often a check tells of itself, in milliseconds. */
const tellEvery = 300;

interface Running {
  check: FrameCheck;
  stop: AbortController;
  told: number;
}

/**
 * Checks of every frame: each picture of a source decoded before anyone relies on it. What they find is a finding like any other,
 * kept until the file changes.
 */
export class Checks {
  private readonly running = new Map<string, Running>();
  private readonly oneByOne = pLimit(1);

  constructor(
    private readonly roots: Roots,
    private readonly pool: WorkerPool,
    private readonly send: (event: ServerEvent) => void,
  ) {}

  /** How a source's check stands; null where none is under way. */
  of(source: string): FrameCheck | null {
    return this.running.get(source)?.check ?? null;
  }

  /**
   * Checks a source once those before it are done. Frames that were decoded already are passed over, unless all were.
   * @returns false where it has no pictures that can be decoded
   */
  start(source: ListedSource): boolean {
    if (source.kind === 'sound' || (source.kind === 'clip' && !isVideo(source) && !isAnimation(source))) return false;
    if (this.running.has(source.id)) return true;
    const { id, name } = source;
    const running: Running = {
      check: { source: id, name, done: 0, total: 0, damaged: 0, running: true, problem: null },
      stop: new AbortController(),
      told: 0,
    };
    this.running.set(id, running);
    void this.oneByOne(() => this.run(source, running));
    return true;
  }

  /** Ends a check; what it found so far stays. */
  stop(source: string): void {
    this.running.get(source)?.stop.abort();
  }

  close(): void {
    for (const { stop } of this.running.values()) stop.abort();
  }

  private async run(source: ListedSource, running: Running): Promise<void> {
    const { root, folder } = source;
    const found: Checked = new Map();
    const { signal } = running.stop;
    try {
      signal.throwIfAborted();
      const total = source.kind === 'sequence' ? source.files - source.doubled.length : (source.facts?.frames ?? 1);
      const known = (source.checked ?? 0) < total ? await this.roots.known(root, folder) : undefined;
      await checkSource(join(this.roots.config(root).path, folder), source, this.pool, found, {
        signal,
        known,
        onProgress: (progress) => this.tell(running, progress),
      });
    } catch (error) {
      if (!signal.aborted) this.tell(running, { problem: problemOf(error) });
    }
    await this.roots.enter(root, folder, found).catch(() => undefined);
    this.running.delete(source.id);
    this.tell(running, { running: false });
  }

  private tell(running: Running, change: Partial<FrameCheck>): void {
    running.check = { ...running.check, ...change };
    if (running.check.running && Date.now() - running.told < tellEvery) return;
    running.told = Date.now();
    this.send({ type: 'check', check: running.check });
  }
}
