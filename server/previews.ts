import { createHash } from 'node:crypto';
import { mkdir, readdir, rm, stat, utimes } from 'node:fs/promises';
import { join } from 'node:path';
import { fileOfFrame, isAnimation, ShaleError } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import type { WorkerPool } from '@shale/engine';
import { insideRoot } from './roots/paths.ts';

/** Bytes that the cache may take on disk, and how far it is cleared once it is over. */
const bound = 2 ** 30;
const clearedTo = 0.8 * bound;

/** Previews, made by worker processes and kept on disk; the least recently used go first. */
export class Previews {
  private readonly making = new Map<string, Promise<void>>();
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
   * The file that holds a frame's preview.
   * @throws ShaleError where the frame is missing, gone or damaged
   */
  async get(source: ListedSource, root: string, frame: number, width: number, format: 'webp' | 'png'): Promise<string> {
    const file = fileOfFrame(source, frame);
    if (file === undefined) {
      throw new ShaleError({
        code: 'frame-missing',
        fact: `Frame ${frame} of ${source.name} is missing.`,
        wayOut: 'Look at another frame.',
        subject: String(frame),
      });
    }
    const path = await insideRoot(root, file);
    const told = await stat(path).catch(() => undefined);
    if (!told) {
      throw new ShaleError({
        code: 'file-gone',
        fact: `${file} is no longer there.`,
        wayOut: 'Scan again on Intake.',
        subject: file,
      });
    }
    const { alpha, transfer, primaries, matte } = source.declaration;
    const taken = [alpha.value, transfer.value, primaries.value, matte.value?.join()];
    const key = [path, isAnimation(source) ? frame : 0, told.mtimeMs, told.size, ...taken, width, format].join('\0');
    const to = join(this.folder, `${createHash('sha256').update(key).digest('hex').slice(0, 32)}.${format}`);
    if (await stat(to).catch(() => undefined)) {
      // Marks it as used now.
      const now = new Date();
      void utimes(to, now, now).catch(() => undefined);
      return to;
    }
    let making = this.making.get(to);
    if (!making) {
      making = this.pool
        .run(
          'preview',
          {
            path,
            clip: source.kind === 'clip' && !isAnimation(source),
            picture: isAnimation(source) ? frame : 0,
            declaration: source.declaration,
            width,
            format,
            to,
          },
          { first: true },
        )
        .finally(() => this.making.delete(to));
      this.making.set(to, making);
    }
    await making;
    this.grow(to);
    return to;
  }

  private grow(path: string): void {
    void stat(path).then(({ size }) => {
      this.grown += size;
      if (this.grown > bound / 16) this.clearing ??= this.clear().finally(() => (this.clearing = undefined));
    });
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
