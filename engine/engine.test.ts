import { execFileSync } from 'node:child_process';
import { mkdir, mkdtemp, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
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
import { probeStill, readStill, readWhole, usualSettings, writeStill, type WriteSettings } from '@shale/media';
import sharp from 'sharp';
import { carryOut } from './carry-out.ts';
import { spansPerProcess, WorkerPool } from './pool.ts';
import { preflight } from './preflight.ts';
import { scanFolders } from './scan.ts';

const settings: WriteSettings = { ...usualSettings, effort: 1, quality: 90, tiffCompression: 'deflate' };
let pool: WorkerPool;
let folder: string;
beforeAll(() => {
  pool = new WorkerPool(2, {}, spansPerProcess);
});
afterAll(() => pool.close());
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-engine-'));
  await mkdir(join(folder, 'in'));
  await mkdir(join(folder, 'out'));
});
afterEach(() => rm(folder, { recursive: true, force: true }));

const frameOf = (frame: number, size = 24): Image => ({
  width: size,
  height: size,
  channels: 4,
  sample: 'u16',
  data: Uint16Array.from({ length: size * size * 4 }, (_, at) => (at * 977 + frame * 4001) & 0xffff),
});

async function putFrames(count: number, size?: number): Promise<void> {
  for (let frame = 1; frame <= count; frame += 1)
    await writeStill(join(folder, 'in', `f_${frame}.png`), 'png', frameOf(frame, size), settings);
}

const wanted: SpecInput = {
  version: 1,
  write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
  names: { stem: 'g', first: 1 },
  into: { root: 'out', folder: '' },
};

async function planOf(spec: SpecInput = wanted, word: Word = {}): Promise<Plan> {
  for await (const { sources } of scanFolders(join(folder, 'in'), pool)) {
    const [source] = sources;
    return makePlan('in', source!, declare(source!, word), parseSpec(spec));
  }
  throw new Error('nothing scanned');
}

const places = () => ({ source: join(folder, 'in'), target: join(folder, 'out') });

async function carry(
  plan: Plan,
  more: { onWritten?: (written: Written) => void; signal?: AbortSignal; settled?: Set<number> } = {},
) {
  const written: Written[] = [];
  const failed: Failure[] = [];
  await carryOut({
    plan,
    places: places(),
    job: 'test',
    pool,
    signal: more.signal,
    settled: more.settled,
    onWritten: (one) => {
      written.push(one);
      more.onWritten?.(one);
    },
    onFailed: (failure) => failed.push(failure),
  });
  return { written, failed, names: (await readdir(join(folder, 'out'))).sort() };
}

test('writes every frame, read back identical, under its final name only', async () => {
  await putFrames(12);
  const { written, failed, names } = await carry(await planOf());
  expect(failed).toEqual([]);
  expect(written.every(({ check }) => check === 'identical')).toBe(true);
  expect(names).toHaveLength(12);
  expect(names[0]).toBe('g.0001.png');
  const result = await readStill(join(folder, 'out', 'g.0007.png'));
  expect(result.data).toEqual(Uint8Array.from(frameOf(7).data, (code) => Math.floor((code + 128) / 257)));
});

test('a plan that changes no pixel copies bytes', async () => {
  await putFrames(3);
  const plan = await planOf({ ...wanted, write: { ...wanted.write, sample: 'u16' } });
  expect(plan.copies).toBe(true);
  await carry(plan);
  expect(await readFile(join(folder, 'out', 'g.0002.png'))).toEqual(await readFile(join(folder, 'in', 'f_2.png')));
});

test('what exists is refused before, and left alone where it appears later', async () => {
  await putFrames(4);
  const plan = await planOf();
  await writeFile(join(folder, 'out', 'g.0002.png'), 'mine');
  const [problem] = await preflight(plan, places(), 'test');
  expect(problem).toMatchObject({
    code: 'output-exists',
    fact: '1 of 4 names exist already in the folder: g.0002.png.',
  });
  const { failed, written } = await carry(plan);
  expect(failed).toMatchObject([{ code: 'output-exists', name: 'g.0002.png' }]);
  expect(written).toHaveLength(3);
  expect(await readFile(join(folder, 'out', 'g.0002.png'), 'utf8')).toBe('mine');
  const replacing = await planOf({ ...wanted, existing: 'replace' });
  expect(await preflight(replacing, places(), 'test')).toEqual([]);
  await carry(replacing);
  expect((await readStill(join(folder, 'out', 'g.0002.png'))).width).toBe(24);
});

test('sources that vanish between plan and run are named', async () => {
  await putFrames(5);
  const plan = await planOf();
  await rm(join(folder, 'in', 'f_3.png'));
  expect(await preflight(plan, places(), 'test')).toMatchObject([
    { code: 'source-changed', fact: '1 of 5 source files is gone since the scan: f_3.png.' },
  ]);
  const { failed, names } = await carry(plan);
  expect(failed).toMatchObject([{ code: 'file-gone', sourceFrame: 3 }]);
  expect(names).toHaveLength(4);
  await rm(join(folder, 'in'), { recursive: true });
  expect(await preflight(plan, places(), 'test')).toMatchObject([{ code: 'folder-gone' }]);
});

test('a damaged frame fails by name, the others are written', async () => {
  await putFrames(4);
  const plan = await planOf();
  const whole = await readFile(join(folder, 'in', 'f_2.png'));
  await writeFile(join(folder, 'in', 'f_2.png'), whole.subarray(0, 300));
  const { failed, names } = await carry(plan);
  expect(failed).toMatchObject([{ code: 'truncated-file', sourceFrame: 2, fact: expect.stringContaining('f_2.png') }]);
  expect(names).toEqual(['g.0001.png', 'g.0003.png', 'g.0004.png']);
});

test('a killed worker costs nothing but time', async () => {
  await putFrames(30, 160);
  let killed = false;
  const { written, failed, names } = await carry(await planOf(), {
    onWritten: () => {
      if (!killed) process.kill(pool.pids[0]!, 'SIGKILL');
      killed = true;
    },
  });
  expect(killed).toBe(true);
  expect(failed).toEqual([]);
  expect(new Set(written.map(({ index }) => index)).size).toBe(30);
  expect(names.filter((name) => !name.startsWith('.shale-'))).toHaveLength(30);
});

test('a stopped run goes on at the next frame with the same bytes', async () => {
  await putFrames(24, 120);
  const plan = await planOf();
  const stop = new AbortController();
  const first = await carry(plan, { signal: stop.signal, onWritten: () => stop.abort() });
  expect(first.written.length).toBeLessThan(24);
  const second = await carry(plan, { settled: new Set(first.written.map(({ index }) => index)) });
  expect(first.written.length + second.written.length).toBe(24);
  const sums = new Map([...first.written, ...second.written].map(({ name, sha256 }) => [name, sha256]));
  await rm(join(folder, 'out'), { recursive: true });
  await mkdir(join(folder, 'out'));
  for (const { name, sha256 } of (await carry(plan)).written) expect(sums.get(name)).toBe(sha256);
});

test('a file that a cut-off job had named already counts as its own', async () => {
  await putFrames(3);
  const plan = await planOf();
  await carry(plan);
  const { failed, written } = await carry(plan);
  expect(failed).toEqual([]);
  expect(written).toHaveLength(3);
});

const isRoot = process.getuid?.() === 0;
(isRoot ? test : test.skip)('a full disk stops the job with the way out; with room it goes on', async () => {
  await putFrames(16, 300);
  const plan = await planOf();
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=120k', 'tmpfs', join(folder, 'out')]);
  } catch {
    // No right to mount here (a container without it): nothing can be shown.
    return;
  }
  try {
    const done: Written[] = [];
    await expect(carry(plan, { onWritten: (one) => done.push(one) })).rejects.toMatchObject({
      code: 'disk-full',
      wayOut: expect.stringContaining('Make room'),
    });
    expect(done.length).toBeGreaterThan(0);
    const left = await readdir(join(folder, 'out'));
    expect(left.filter((name) => name.endsWith('.part'))).toEqual([]);
    expect(left).toHaveLength(done.length);
    execFileSync('mount', ['-o', 'remount,size=60m', join(folder, 'out')]);
    const { written } = await carry(plan, { settled: new Set(done.map(({ index }) => index)) });
    expect(done.length + written.length).toBe(16);
  } finally {
    await wait(50);
    execFileSync('umount', [join(folder, 'out')]);
  }
});

describe('scanning', () => {
  test('a folder that is not there, a file, an empty folder', async () => {
    const scan = async (path: string) => {
      const found = [];
      for await (const scanned of scanFolders(path, pool)) found.push(scanned);
      return found;
    };
    await expect(scan(join(folder, 'nowhere'))).rejects.toMatchObject({ code: 'folder-not-found' });
    await writeFile(join(folder, 'file'), '');
    await expect(scan(join(folder, 'file'))).rejects.toMatchObject({ code: 'not-a-folder' });
    expect(await scan(join(folder, 'out'))).toMatchObject([
      { folder: '', sources: [], other: [], notes: [], files: 0 },
    ]);
  });

  test('an unreadable header becomes a finding with its reason', async () => {
    await putFrames(2);
    await writeFile(join(folder, 'in', 'bad_1.png'), 'no picture');
    for await (const { sources } of scanFolders(join(folder, 'in'), pool)) {
      const [bad] = sources.filter(({ name }) => name === 'bad_1.png');
      const finding = bad!.findings.find(({ code }) => code === 'unknown-format');
      expect(finding).toMatchObject({ severity: 'fault', short: 'Cannot be read' });
      expect(bad!.facts).toBeUndefined();
    }
  });
});

describe('pictures that differ', () => {
  /** Six frames, the fourth of them half as large. */
  async function putMixed(): Promise<void> {
    await putFrames(6, 24);
    await writeStill(join(folder, 'in', 'small.png'), 'png', frameOf(4, 12), settings);
    await rename(join(folder, 'in', 'small.png'), join(folder, 'in', 'f_4.png'));
  }
  const mixed = (how: 'stop' | 'fit' | 'leave-out') => planOf({ ...wanted, mixed: how });

  test('stop the plan, are fitted or left out, as it is chosen', async () => {
    await putMixed();
    const stopped = await mixed('stop');
    expect(stopped.problems).toMatchObject([
      { code: 'mixed-pictures', fact: expect.stringContaining('12 x 12') as string },
    ]);
    expect(stopped.differing).toEqual([{ first: 4, last: 4, step: 1 }]);

    const without = await mixed('leave-out');
    expect([without.problems, without.files]).toEqual([[], 5]);
    expect(without.losses).toContainEqual(expect.objectContaining({ code: 'differing-left-out', amount: '1' }));

    const fitted = await mixed('fit');
    const { failed, written } = await carry(fitted);
    expect([failed, written.length]).toEqual([[], 6]);
    expect(await readStill(join(folder, 'out', 'g.0004.png'))).toMatchObject({ width: 24, height: 24, sample: 'u8' });
  });

  test('that came after the scan fail by name, and the others are written', async () => {
    await putFrames(6, 24);
    const plan = await planOf();
    await putMixedAfter();
    const { failed, written } = await carry(plan);
    expect(written).toHaveLength(5);
    expect(failed).toMatchObject([
      { code: 'frame-differs', fact: expect.stringContaining('f_4.png is 12 x 12') as string },
    ]);

    async function putMixedAfter() {
      await rm(join(folder, 'in', 'f_4.png'));
      await writeStill(join(folder, 'in', 'f_4.png'), 'png', frameOf(4, 12), settings);
    }
  });
});

test('what a file says beside its picture goes along: timecode by frame, attributes, the declared rate', async () => {
  for (let frame = 1; frame <= 3; frame += 1) {
    const image: Image = { width: 16, height: 8, channels: 3, sample: 'f16', data: new Uint16Array(384).fill(0x3800) };
    await writeStill(join(folder, 'in', `f_${frame}.exr`), 'exr', image, {
      ...settings,
      primaries: 'acescg',
      timecode: `01:00:00:0${frame}`,
      attributes: [{ name: 'museum', type: 'string', value: 'trams' }],
    });
  }
  const to = (format: 'dpx' | 'exr', sample: 'u10' | 'f32', transfer: 'film-log' | 'linear') =>
    planOf(
      { ...wanted, names: { stem: format, first: 1 }, write: { format, sample, alpha: 'none', transfer } },
      { rate: { num: 24_000, den: 1001 } },
    );
  expect((await carry(await to('dpx', 'u10', 'film-log'))).failed).toEqual([]);
  expect(await probeStill(join(folder, 'out', 'dpx.0002.dpx'))).toMatchObject({
    timecode: '01:00:00:02',
    rate: { num: 24_000, den: 1001 },
    transfer: 'film-log',
  });
  expect((await carry(await to('exr', 'f32', 'linear'))).failed).toEqual([]);
  const { facts, carried } = await readWhole(join(folder, 'out', 'exr.0003.exr'));
  expect(facts).toMatchObject({ timecode: '01:00:00:03', rate: { num: 24_000, den: 1001 }, primaries: 'acescg' });
  expect(carried.attributes).toEqual([{ name: 'museum', type: 'string', value: 'trams' }]);
});

test('one frame of a plan is looked at without writing it, and content is found over all', async () => {
  for (let frame = 1; frame <= 2; frame += 1) {
    const data = new Uint8Array(40 * 30 * 4);
    // A square that moves, and is all that is not clear.
    for (let y = 5; y < 10; y += 1)
      for (let x = frame * 8; x < frame * 8 + 5; x += 1) data.fill(200, (y * 40 + x) * 4, (y * 40 + x) * 4 + 4);
    await writeStill(
      join(folder, 'in', `f_${frame}.png`),
      'png',
      { width: 40, height: 30, channels: 4, sample: 'u8', data },
      settings,
    );
  }
  const plan = await planOf({ ...wanted, picture: { turn: 90 } });
  const ask = { plan, places: places(), sourceFrame: 1, width: 64 };
  for (const view of ['result', 'matte', 'status', 'losses'] as const) {
    const { width, height, format } = await sharp(Buffer.from(await pool.run('picture', { ...ask, view }))).metadata();
    expect({ width, height, format }).toEqual({ width: 30, height: 40, format: 'webp' });
  }
  await expect(pool.run('picture', { ...ask, sourceFrame: 9, view: 'result' })).rejects.toMatchObject({
    code: 'no-such-frame',
  });
  const files = [1, 2].map((frame) => ({ path: join(folder, 'in', `f_${frame}.png`), picture: 0, clip: false }));
  // Rows 5 to 9 and columns 8 to 20, turned clockwise.
  expect(await pool.run('content', { files, picture: plan.spec.picture })).toEqual({
    left: 20,
    top: 8,
    width: 5,
    height: 13,
  });
  expect(await readdir(join(folder, 'out'))).toEqual([]);
});

test('an animation is a clip whose pictures become a sequence, at the rate that it says', async () => {
  const flat = (r: number) => sharp({ create: { width: 8, height: 6, channels: 3, background: { r, g: 0, b: 0 } } });
  const pictures = await Promise.all([0, 100, 200].map((red) => flat(red).png().toBuffer()));
  const delay = [40, 40, 40];
  await sharp(pictures, { join: { animated: true } })
    .gif({ delay })
    .toFile(join(folder, 'in', 'wave.gif'));
  const plan = await planOf(
    { ...wanted, write: { ...wanted.write, alpha: 'none' } },
    { transfer: 'srgb', alpha: 'none' },
  );
  expect(plan.source).toMatchObject({ kind: 'clip', coverage: [{ first: 0, last: 2, step: 1 }] });
  expect(plan.declaration.rate.value).toEqual({ num: 25, den: 1 });
  const { failed, names } = await carry(plan);
  expect([failed, names]).toEqual([[], ['g.0001.png', 'g.0002.png', 'g.0003.png']]);
  const reds = await Promise.all(names.map((name) => readStill(join(folder, 'out', name))));
  expect(reds.map(({ data }) => data[0])).toEqual([0, 100, 200]);
});
