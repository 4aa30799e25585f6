import { readFileSync } from 'node:fs';
import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { declare, makePlan, parseSpec, type Image } from '@shale/core';
import { carryOut, scanFolders, spansPerProcess, WorkerPool } from '@shale/engine';
import { usualSettings, writeStill } from '@shale/media';

const counts = [200, 2000];
const [width, height] = [640, 360];

/** The greatest resident memory that a process had, in MiB (proc(5)). */
const peakOf = (pid: number | 'self'): number =>
  Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1]) / 1024;

/** The peak of one job over so many frames: of each worker process, and of the one that hands the work out. */
async function peak(count: number): Promise<{ workers: number; seconds: number }> {
  const folder = await mkdtemp(join(tmpdir(), 'shale-memory-'));
  const source = join(folder, 'in');
  const target = join(folder, 'out');
  await mkdir(source);
  await mkdir(target);
  const data = Uint16Array.from({ length: width * height * 4 }, (_, at) => (at * 977) & 0xffff);
  const image: Image = { width, height, channels: 4, sample: 'u16', data };
  // As many as the shorter job has are written, the others are the same files under other names.
  const { linkSync } = await import('node:fs');
  const name = (frame: number) => join(source, `f.${String(frame).padStart(5, '0')}.png`);
  for (let frame = 1; frame <= count; frame += 1) {
    if (frame <= 4) {
      data[frame] = frame;
      await writeStill(name(frame), 'png', image, { ...usualSettings, effort: 1 });
    } else linkSync(name(((frame - 1) % 4) + 1), name(frame));
  }
  const pool = new WorkerPool(2, { together: spansPerProcess });
  try {
    for await (const { sources } of scanFolders(source, pool)) {
      const spec = parseSpec({
        version: 1,
        write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb', effort: 1 },
        picture: { resize: { to: { by: 'percent', percent: 50 } } },
        into: { root: 'out', folder: '' },
      });
      const start = performance.now();
      await carryOut({
        plan: makePlan(source, sources[0]!, declare(sources[0]!), spec),
        places: { source, target },
        job: 'memory',
        pool,
        onWritten: () => undefined,
        onFailed: ({ fact }) => console.log(fact),
      });
      return {
        workers: Math.max(...pool.pids.map(peakOf)),
        seconds: (performance.now() - start) / 1000,
      };
    }
    throw new Error('nothing was found');
  } finally {
    await pool.close();
    await rm(folder, { recursive: true, force: true });
  }
}

/** A job's memory against the number of its frames: flat is what is aimed at. */
export async function memoryBench(): Promise<void> {
  console.log(`Memory of a job, ${width} x ${height} PNG 16-bit -> PNG 8-bit at half the size`);
  const peaks: number[] = [];
  for (const count of counts) {
    const { workers, seconds } = await peak(count);
    peaks.push(workers);
    console.log(
      `  ${String(count).padStart(5)} frames  ${workers.toFixed(0)} MiB at the most in a worker, ${seconds.toFixed(1)} s`,
    );
  }
  console.log(`  ratio      ${(peaks[1]! / peaks[0]!).toFixed(2)}\n`);
}
