import { createHash } from 'node:crypto';
import { mkdir, readdir, rm, stat, utimes } from 'node:fs/promises';
import { join } from 'node:path';
import type { Precision } from '@shale/core';
import type { WorkerPool } from '@shale/engine';
import type { ShownFrame } from './shown.ts';

/** Bytes that the cache may take on disk, and how far it is cleared once it is over. */
const bound = 2 ** 30;
const clearedTo = 0.8 * bound;

/** How a preview is wanted: coded as 8-bit sRGB, or in light as the stage works with it. */
export type PreviewKind = 'quick' | 'png' | Precision;

/** A preview in the making, for so many who wait for it. */
interface Making {
  done: Promise<void>;
  stop: AbortController;
  waiting: number;
}

/** Previews and what was measured of sounds, made by worker processes and kept on disk; the least recently used go first. */
export class Previews {
  private readonly making = new Map<string, Making>();
  private grown = 0;
  private clearing: Promise<void> | undefined;

  constructor(
    private readonly folder: string,
    private readonly pool: WorkerPool,
  ) {}

  async begin(): Promise<void> {
    await mkdir(this.folder, { recursive: true });
    await this.clear();
  }

  /**
   * The file that holds a frame's preview. One that nobody waits for any more is not begun.
   * @throws ShaleError where the frame is damaged
   */
  async get(
    { file, declaration, modified, size }: ShownFrame,
    width: number,
    kind: PreviewKind,
    signal: AbortSignal,
    asker?: object,
  ): Promise<string> {
    const { alpha, transfer, primaries, matte } = declaration;
    const taken = [alpha.value, transfer.value, primaries.value, matte.value?.join()];
    const key = [file.path, file.picture, modified, size, ...taken, width, kind];
    return this.kept(
      key,
      kind,
      (to, stop) =>
        this.pool.run('preview', { file, declaration, width, format: kind, to }, { first: true, signal: stop, asker }),
      signal,
    );
  }

  /**
   * The file that holds what is made of something by `make`, if nobody has made it yet.
   * @param key all that it depends on
   */
  async kept(
    key: readonly unknown[],
    ending: string,
    make: (to: string, signal: AbortSignal) => Promise<void>,
    signal: AbortSignal,
  ): Promise<string> {
    const name = createHash('sha256').update(key.join('\0')).digest('hex').slice(0, 32);
    const to = join(this.folder, `${name}.${ending}`);
    if (await stat(to).catch(() => undefined)) {
      // Marks it as used now.
      const now = new Date();
      void utimes(to, now, now).catch(() => undefined);
      return to;
    }
    let making = this.making.get(to);
    if (!making) {
      const stop = new AbortController();
      const done = make(to, stop.signal).finally(() => this.making.get(to)?.stop === stop && this.making.delete(to));
      this.making.set(to, (making = { done, stop, waiting: 0 }));
    }
    making.waiting += 1;
    const mine = making;
    const leave = () => {
      mine.waiting -= 1;
      if (mine.waiting > 0) return;
      // Whoever asks from now on begins anew.
      if (this.making.get(to) === mine) this.making.delete(to);
      mine.stop.abort();
    };
    signal.addEventListener('abort', leave);
    try {
      await mine.done;
    } finally {
      signal.removeEventListener('abort', leave);
    }
    this.grow(to);
    return to;
  }

  private grow(path: string): void {
    void stat(path).then(
      ({ size }) => {
        this.grown += size;
        if (this.grown > bound / 16) this.clearing ??= this.clear().finally(() => (this.clearing = undefined));
      },
      () => undefined,
    );
  }

  private async clear(): Promise<void> {
    this.grown = 0;
    const names = await readdir(this.folder);
    const files = (
      await Promise.all(
        names.map(async (name) => ({
          path: join(this.folder, name),
          told: await stat(join(this.folder, name)).catch(() => undefined),
        })),
      )
    ).flatMap(({ path, told }) => (told ? [{ path, size: told.size, used: told.mtimeMs }] : []));
    let total = files.reduce((sum, { size }) => sum + size, 0);
    if (total <= bound) return;
    for (const { path, size } of files.sort((a, b) => a.used - b.used)) {
      if (total <= clearedTo) break;
      await rm(path, { force: true });
      total -= size;
    }
  }
}
