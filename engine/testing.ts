import { mkdir, mkdtemp, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  declare,
  makePlan,
  parseSpec,
  type Failure,
  type Image,
  type Plan,
  type SpecInput,
  type Word,
  type Written,
} from '@shale/core';
import { usualSettings, writeStill, type WriteSettings } from '@shale/media';
import { carryOut, type Work } from './carry-out.ts';
import { spansPerProcess, WorkerPool } from './pool.ts';
import { scanFolders } from './scan.ts';

export const settings: WriteSettings = { ...usualSettings, effort: 1, quality: 90, tiffCompression: 'deflate' };

/** Pictures that differ by their frame: 16 bits, with alpha. */
export const frameOf = (frame: number, size = 24): Image => ({
  width: size,
  height: size,
  channels: 4,
  sample: 'u16',
  data: Uint16Array.from({ length: size * size * 4 }, (_, at) => (at * 977 + frame * 4001) & 0xffff),
});

export const wanted: SpecInput = {
  version: 1,
  write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
  names: { stem: 'g', first: 1 },
  into: { root: 'out', folder: '' },
};

/** A folder with a root to read, `in`, and one to write, `out`, and processes that carry plans out between them. For tests. */
export class Yard {
  readonly pool = new WorkerPool(2, { together: spansPerProcess });

  private constructor(readonly folder: string) {}

  static async make(): Promise<Yard> {
    const yard = new Yard(await mkdtemp(join(tmpdir(), 'shale-engine-')));
    await yard.clear();
    return yard;
  }

  /** Empties both roots. */
  async clear(): Promise<void> {
    await rm(this.folder, { recursive: true, force: true });
    for (const name of ['in', 'out']) await mkdir(this.at(name), { recursive: true });
  }

  at(...path: string[]): string {
    return join(this.folder, ...path);
  }

  async putFrames(count: number, size?: number): Promise<void> {
    for (let frame = 1; frame <= count; frame += 1)
      await writeStill(this.at('in', `f_${frame}.png`), 'png', frameOf(frame, size), settings);
  }

  async planOf(spec: SpecInput = wanted, word: Word = {}): Promise<Plan> {
    for await (const { sources } of scanFolders(this.at('in'), this.pool)) {
      const [source] = sources;
      return makePlan('in', source!, declare(source!, word), parseSpec(spec));
    }
    throw new Error('nothing scanned');
  }

  get places() {
    return { source: this.at('in'), target: this.at('out') };
  }

  async carry(
    plan: Plan,
    more: Pick<Partial<Work>, 'onWritten' | 'signal' | 'settled' | 'takesChanged' | 'stamps' | 'onStamps'> = {},
  ): Promise<{ written: Written[]; failed: Failure[]; names: string[] }> {
    const written: Written[] = [];
    const failed: Failure[] = [];
    await carryOut({
      plan,
      places: this.places,
      job: 'test',
      pool: this.pool,
      ...more,
      onWritten: (one) => {
        written.push(one);
        more.onWritten?.(one);
      },
      onFailed: (failure) => failed.push(failure),
    });
    return { written, failed, names: (await readdir(this.at('out'))).sort() };
  }

  async leave(): Promise<void> {
    await this.pool.close();
    await rm(this.folder, { recursive: true, force: true });
  }
}
