import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import {
  addCounts,
  declare,
  makePlan,
  noCounts,
  ofAll,
  numberToHalf,
  parseSpec,
  type Image,
  type Plan,
  type Source,
} from '@shale/core';
import { writeExr } from '@shale/media';
import { carryOut } from './carry-out.ts';
import { WorkerPool } from './pool.ts';
import { scanFolders } from './scan.ts';

let pool: WorkerPool;
let folder: string;
let plan: Plan;
let source: Source;
const count = 9;

/** Light from below 0 to 2, opaque, half opaque and without alpha, another picture each frame. */
const frameOf = (frame: number): Image => ({
  width: 20,
  height: 10,
  channels: 4,
  sample: 'f16',
  data: Uint16Array.from({ length: 20 * 10 * 4 }, (_, at) =>
    at % 4 === 3 ? numberToHalf([1, 0.5, 0][(at >> 2) % 3]!) : numberToHalf((((at * 37 + frame * 11) % 90) - 5) / 40),
  ),
});

beforeAll(async () => {
  pool = new WorkerPool(2);
  folder = await mkdtemp(join(tmpdir(), 'shale-tasks-'));
  await mkdir(join(folder, 'in'));
  await mkdir(join(folder, 'out'));
  for (let frame = 1; frame <= count; frame += 1) {
    await writeExr(join(folder, 'in', `l.${frame.toString().padStart(4, '0')}.exr`), frameOf(frame), {
      compression: 'ZIP',
    });
  }
  for await (const { sources } of scanFolders(join(folder, 'in'), pool)) [source] = sources as [Source];
  const write = { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' };
  plan = makePlan('in', source, declare(source), parseSpec({ version: 1, write, into: { root: 'out', folder: '' } }));
});
afterAll(async () => {
  await pool.close();
  await rm(folder, { recursive: true, force: true });
});

const places = () => ({ source: join(folder, 'in'), target: join(folder, 'out') });
const frames = Array.from({ length: count }, (_, at) => at + 1);

test('measuring all frames foretells what the run then counts, and keeps nothing', async () => {
  const measured = await pool.run('measure', { plan, places: places(), results: frames.map((frame) => frame - 1) });
  const sum = noCounts();
  let bytes = 0;
  await carryOut({
    plan,
    places: places(),
    job: 'measured',
    pool,
    onWritten: (written) => {
      addCounts(sum, written.counts);
      bytes += written.bytes;
    },
    onFailed: ({ fact }) => {
      throw new Error(fact);
    },
  });
  expect(measured.counts).toEqual(sum);
  expect(measured.bytes).toBe(Math.round(bytes / count));
  expect(ofAll(sum.high)).toBeGreaterThan(0);
  expect(ofAll(sum.low)).toBeGreaterThan(0);
  expect(sum.glow).toBeGreaterThan(0);
});

test('measuring names the frames that it looked at and the one that it could not read', async () => {
  const path = join(folder, 'in', 'l.0004.exr');
  const whole = await readFile(path);
  await writeFile(path, whole.subarray(0, whole.length / 2));
  const measured = await pool.run('measure', { plan, places: places(), results: [0, 3, 8] });
  await writeFile(path, whole);
  expect(measured.frames).toEqual([1, 9]);
  expect(measured.problems).toMatchObject([{ code: 'truncated-file', fact: expect.stringContaining('l.0004.exr') }]);
});

test('headers are read for all kinds at once; each answers for itself', async () => {
  const path = (name: string) => join(folder, 'in', name);
  const told = await pool.run('probe', [
    { path: path('l.0001.exr'), kind: 'picture' },
    { path: path('nothing.exr'), kind: 'picture' },
    { path: path('l.0001.exr'), kind: 'sound' },
  ]);
  expect(told).toMatchObject([
    { facts: { format: 'exr', width: 20 } },
    { problem: { code: 'file-gone' } },
    { problem: { code: 'format-not-read' } },
  ]);
});

const shown = (name: string) => ({ path: join(folder, 'in', name), clip: false, picture: 0 });

test('a preview is written whole, of the size asked for', async () => {
  const to = join(folder, 'preview.quick');
  await pool.run('preview', {
    file: shown('l.0001.exr'),
    declaration: declare(source),
    width: 16,
    format: 'quick',
    to,
  });
  expect(await sharp(to).metadata()).toMatchObject({ format: 'png', width: 16, height: 8, hasAlpha: true });
});

describe('the pool', () => {
  test('a task that ends its process is told as such, and the next finds a new one', async () => {
    const small = new WorkerPool(1);
    try {
      const work = small.run('measure', { plan, places: places(), results: frames.map((frame) => frame - 1) });
      process.kill(small.pids[0]!, 'SIGKILL');
      await expect(work).rejects.toMatchObject({ code: 'worker-crashed' });
      expect(await small.run('probe', [])).toEqual([]);
    } finally {
      await small.close();
    }
  });

  test('a task that only looks is begun again where its process ends, and not for ever', async () => {
    const small = new WorkerPool(1);
    try {
      const looked = () => small.run('stamps', { plan, places: places(), readings: [null], takes: true });
      const wanted = await looked();
      const work = looked();
      process.kill(small.pids[0]!, 'SIGKILL');
      expect(await work).toEqual(wanted);
      const hopeless = expect(looked()).rejects.toMatchObject({ code: 'worker-crashed' });
      for (let kills = 0; kills < 3; kills += 1) {
        const [pid] = small.pids;
        process.kill(pid!, 'SIGKILL');
        while (small.pids[0] === pid) await new Promise((resolve) => setTimeout(resolve, 5));
      }
      await hopeless;
    } finally {
      await small.close();
    }
  });

  test('closing it ends its processes and what waits', async () => {
    const small = new WorkerPool(1);
    const works = [1, 2, 3].map(() =>
      small.run('measure', { plan, places: places(), results: frames.map((frame) => frame - 1) }),
    );
    const ended = Promise.allSettled(works);
    const [pid] = small.pids;
    await small.close();
    expect((await ended).every(({ status }) => status === 'rejected')).toBe(true);
    expect(() => process.kill(pid!, 0)).toThrow();
  });

  test('plans go to a process once and are sent again when it has forgotten them', async () => {
    const small = new WorkerPool(1);
    try {
      // More plans than a process holds, each asked for twice, and two tasks of one plan at once.
      const plans = [1, 2, 3, 4, 5].map((first) => ({
        ...plan,
        spec: { ...plan.spec, names: { ...plan.spec.names, first } },
      }));
      for (const one of [...plans, ...plans]) {
        const both = await Promise.all(
          [0, 1].map((at) => small.run('measure', { plan: one, places: places(), results: [at] })),
        );
        expect(both.map((measured) => measured.frames)).toEqual([[1], [2]]);
      }
    } finally {
      await small.close();
    }
  });

  test('a task whose process ends while its signal calls it off neither hangs nor throws elsewhere', async () => {
    const small = new WorkerPool(1, { together: 2 });
    const stop = new AbortController();
    try {
      const works = [1, 2].map(() =>
        small.run(
          'measure',
          { plan, places: places(), results: frames.map((frame) => frame - 1) },
          { signal: stop.signal },
        ),
      );
      const ended = Promise.allSettled(works);
      process.kill(small.pids[0]!, 'SIGKILL');
      stop.abort();
      for (const one of await ended)
        expect(one).toMatchObject({ status: 'rejected', reason: { code: 'worker-crashed' } });
      // Called off once more, when all of them are long over.
      stop.signal.dispatchEvent(new Event('abort'));
      expect(await small.run('probe', [])).toEqual([]);
    } finally {
      await small.close();
    }
  });

  test('a task called off before its turn is not begun', async () => {
    const stop = new AbortController();
    stop.abort();
    await expect(
      pool.run(
        'measure',
        { plan, places: places(), results: frames.map((frame) => frame - 1) },
        { signal: stop.signal },
      ),
    ).rejects.toMatchObject({
      code: 'worker-crashed',
    });
  });
});
