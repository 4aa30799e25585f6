import { execFileSync } from 'node:child_process';
import { mkdir, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { setTimeout as wait } from 'node:timers/promises';
import type { Image, Written } from '@shale/core';
import { probeStill, readStill, readWhole, writeStill } from '@shale/media';
import sharp from 'sharp';
import { preflight } from './preflight.ts';
import { scanFolders } from './scan.ts';
import { frameOf, settings, wanted, Yard } from './testing.ts';

let yard: Yard;
beforeAll(async () => {
  yard = await Yard.make();
});
beforeEach(() => yard.clear());
afterAll(() => yard.leave());

test('writes every frame, read back identical, under its final name only', async () => {
  await yard.putFrames(12);
  const { written, failed, names } = await yard.carry(await yard.planOf());
  expect(failed).toEqual([]);
  expect(written.every(({ check }) => check === 'identical')).toBe(true);
  expect(names).toHaveLength(12);
  expect(names[0]).toBe('g.0001.png');
  const result = await readStill(yard.at('out', 'g.0007.png'));
  expect(result.data).toEqual(Uint8Array.from(frameOf(7).data, (code) => Math.floor((code + 128) / 257)));
});

test('a plan that changes no pixel copies bytes', async () => {
  await yard.putFrames(3);
  const plan = await yard.planOf({ ...wanted, write: { ...wanted.write, sample: 'u16' } });
  expect(plan.copies).toBe(true);
  await yard.carry(plan);
  expect(await readFile(yard.at('out', 'g.0002.png'))).toEqual(await readFile(yard.at('in', 'f_2.png')));
});

test('what exists is refused before, and left alone where it appears later', async () => {
  await yard.putFrames(4);
  const plan = await yard.planOf();
  await writeFile(yard.at('out', 'g.0002.png'), 'mine');
  const [problem] = await preflight(plan, yard.places, 'test');
  expect(problem).toMatchObject({
    code: 'output-exists',
    fact: '1 of 4 names exist already in the folder: g.0002.png.',
  });
  const { failed, written } = await yard.carry(plan);
  expect(failed).toMatchObject([{ code: 'output-exists', name: 'g.0002.png' }]);
  expect(written).toHaveLength(3);
  expect(await readFile(yard.at('out', 'g.0002.png'), 'utf8')).toBe('mine');
  const replacing = await yard.planOf({ ...wanted, existing: 'replace' });
  expect(await preflight(replacing, yard.places, 'test')).toEqual([]);
  await yard.carry(replacing);
  expect((await readStill(yard.at('out', 'g.0002.png'))).width).toBe(24);
});

test('sources that vanish between plan and run are named', async () => {
  await yard.putFrames(5);
  const plan = await yard.planOf();
  await rm(yard.at('in', 'f_3.png'));
  expect(await preflight(plan, yard.places, 'test')).toMatchObject([
    { code: 'source-changed', fact: '1 of 5 source files is missing since the scan: f_3.png.' },
  ]);
  await expect(yard.carry(plan)).rejects.toMatchObject({
    code: 'source-changed',
    fact: 'f_#.png changed since it was scanned; 1 file is gone: f_3.png.',
  });
  expect(await readdir(yard.at('out'))).toEqual([]);
  const { failed, names } = await yard.carry(plan, { takesChanged: true });
  expect(failed).toMatchObject([{ code: 'file-gone', sourceFrame: 3 }]);
  expect(names).toHaveLength(4);
  await rm(yard.at('in'), { recursive: true });
  expect(await preflight(plan, yard.places, 'test')).toMatchObject([{ code: 'folder-gone' }]);
});

test('a damaged frame fails by name, the others are written', async () => {
  await yard.putFrames(4);
  const plan = await yard.planOf();
  const whole = await readFile(yard.at('in', 'f_2.png'));
  await writeFile(yard.at('in', 'f_2.png'), whole.subarray(0, 300));
  const { failed, names } = await yard.carry(plan, { takesChanged: true });
  expect(failed).toMatchObject([{ code: 'truncated-file', sourceFrame: 2, fact: expect.stringContaining('f_2.png') }]);
  expect(names).toEqual(['g.0001.png', 'g.0003.png', 'g.0004.png']);
});

test('a killed worker costs nothing but time', async () => {
  await yard.putFrames(30, 160);
  let killed = false;
  const { written, failed, names } = await yard.carry(await yard.planOf(), {
    onWritten: () => {
      if (!killed) process.kill(yard.pool.pids[0]!, 'SIGKILL');
      killed = true;
    },
  });
  expect(killed).toBe(true);
  expect(failed).toEqual([]);
  expect(new Set(written.map(({ index }) => index)).size).toBe(30);
  expect(names.filter((name) => !name.startsWith('.shale-'))).toHaveLength(30);
});

test('a stopped run goes on at the next frame with the same bytes', async () => {
  await yard.putFrames(24, 120);
  const plan = await yard.planOf();
  const stop = new AbortController();
  const first = await yard.carry(plan, { signal: stop.signal, onWritten: () => stop.abort() });
  expect(first.written.length).toBeLessThan(24);
  const second = await yard.carry(plan, { settled: new Set(first.written.map(({ index }) => index)) });
  expect(first.written.length + second.written.length).toBe(24);
  const sums = new Map([...first.written, ...second.written].map(({ name, sha256 }) => [name, sha256]));
  await rm(yard.at('out'), { recursive: true });
  await mkdir(yard.at('out'));
  for (const { name, sha256 } of (await yard.carry(plan)).written) expect(sums.get(name)).toBe(sha256);
});

test('a file that a cut-off job had named already counts as its own', async () => {
  await yard.putFrames(3);
  const plan = await yard.planOf();
  await yard.carry(plan);
  const { failed, written } = await yard.carry(plan);
  expect(failed).toEqual([]);
  expect(written).toHaveLength(3);
});

const isRoot = process.getuid?.() === 0;
(isRoot ? test : test.skip)('a full disk stops the job with the way out; with room it goes on', async () => {
  await yard.putFrames(16, 300);
  const plan = await yard.planOf();
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=120k', 'tmpfs', yard.at('out')]);
  } catch {
    // No right to mount here (a container without it): nothing can be shown.
    return;
  }
  try {
    const done: Written[] = [];
    await expect(yard.carry(plan, { onWritten: (one) => done.push(one) })).rejects.toMatchObject({
      code: 'disk-full',
      wayOut: expect.stringContaining('Free some space'),
    });
    expect(done.length).toBeGreaterThan(0);
    const left = await readdir(yard.at('out'));
    expect(left.filter((name) => name.endsWith('.part'))).toEqual([]);
    expect(left).toHaveLength(done.length);
    execFileSync('mount', ['-o', 'remount,size=60m', yard.at('out')]);
    const { written } = await yard.carry(plan, { settled: new Set(done.map(({ index }) => index)) });
    expect(done.length + written.length).toBe(16);
  } finally {
    await wait(50);
    execFileSync('umount', [yard.at('out')]);
  }
});

describe('scanning', () => {
  test('a folder that is not there, a file, an empty folder', async () => {
    const scan = async (path: string) => {
      const found = [];
      for await (const scanned of scanFolders(path, yard.pool)) found.push(scanned);
      return found;
    };
    await expect(scan(yard.at('nowhere'))).rejects.toMatchObject({ code: 'folder-not-found' });
    await writeFile(yard.at('file'), '');
    await expect(scan(yard.at('file'))).rejects.toMatchObject({ code: 'not-a-folder' });
    expect(await scan(yard.at('out'))).toMatchObject([{ folder: '', sources: [], other: [], notes: [], files: 0 }]);
  });

  test('an unreadable header becomes a finding with its reason', async () => {
    await yard.putFrames(2);
    await writeFile(yard.at('in', 'bad_1.png'), 'no picture');
    for await (const { sources } of scanFolders(yard.at('in'), yard.pool)) {
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
    await yard.putFrames(6, 24);
    await writeStill(yard.at('in', 'small.png'), 'png', frameOf(4, 12), settings);
    await rename(yard.at('in', 'small.png'), yard.at('in', 'f_4.png'));
  }
  const mixed = (how: 'stop' | 'fit' | 'leave-out') => yard.planOf({ ...wanted, mixed: how });

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
    const { failed, written } = await yard.carry(fitted);
    expect([failed, written.length]).toEqual([[], 6]);
    expect(await readStill(yard.at('out', 'g.0004.png'))).toMatchObject({ width: 24, height: 24, sample: 'u8' });
  });

  test('that came after the scan fail by name, and the others are written', async () => {
    await yard.putFrames(6, 24);
    const plan = await yard.planOf();
    await putMixedAfter();
    const { failed, written } = await yard.carry(plan, { takesChanged: true });
    expect(written).toHaveLength(5);
    expect(failed).toMatchObject([
      { code: 'frame-differs', fact: expect.stringContaining('f_4.png is 12 x 12') as string },
    ]);

    async function putMixedAfter() {
      await rm(yard.at('in', 'f_4.png'));
      await writeStill(yard.at('in', 'f_4.png'), 'png', frameOf(4, 12), settings);
    }
  });
});

test('what a file says beside its picture goes along: timecode by frame, attributes, the declared rate', async () => {
  for (let frame = 1; frame <= 3; frame += 1) {
    const image: Image = { width: 16, height: 8, channels: 3, sample: 'f16', data: new Uint16Array(384).fill(0x3800) };
    await writeStill(yard.at('in', `f_${frame}.exr`), 'exr', image, {
      ...settings,
      primaries: 'acescg',
      timecode: `01:00:00:0${frame}`,
      attributes: [{ name: 'museum', type: 'string', value: 'trams' }],
    });
  }
  const to = (format: 'dpx' | 'exr', sample: 'u10' | 'f32', transfer: 'film-log' | 'linear') =>
    yard.planOf(
      { ...wanted, names: { stem: format, first: 1 }, write: { format, sample, alpha: 'none', transfer } },
      { rate: { num: 24_000, den: 1001 } },
    );
  expect((await yard.carry(await to('dpx', 'u10', 'film-log'))).failed).toEqual([]);
  expect(await probeStill(yard.at('out', 'dpx.0002.dpx'))).toMatchObject({
    timecode: '01:00:00:02',
    rate: { num: 24_000, den: 1001 },
    transfer: 'film-log',
  });
  expect((await yard.carry(await to('exr', 'f32', 'linear'))).failed).toEqual([]);
  const { facts, carried } = await readWhole(yard.at('out', 'exr.0003.exr'));
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
      yard.at('in', `f_${frame}.png`),
      'png',
      { width: 40, height: 30, channels: 4, sample: 'u8', data },
      settings,
    );
  }
  const plan = await yard.planOf({ ...wanted, picture: { turn: 90 } });
  const ask = { plan, places: yard.places, sourceFrame: 1, width: 64 };
  const coded = { result: 'png', matte: 'jpeg', status: 'jpeg', losses: 'jpeg' } as const;
  for (const view of ['result', 'matte', 'status', 'losses'] as const) {
    const { width, height, format } = await sharp(
      Buffer.from(await yard.pool.run('picture', { ...ask, view })),
    ).metadata();
    expect({ width, height, format }).toEqual({ width: 30, height: 40, format: coded[view] });
  }
  await expect(yard.pool.run('picture', { ...ask, sourceFrame: 9, view: 'result' })).rejects.toMatchObject({
    code: 'no-such-frame',
  });
  const files = [1, 2].map((frame) => ({ path: yard.at('in', `f_${frame}.png`), picture: 0, clip: false }));
  // Rows 5 to 9 and columns 8 to 20, turned clockwise.
  expect(await yard.pool.run('content', { files, picture: plan.spec.picture })).toEqual({
    left: 20,
    top: 8,
    width: 5,
    height: 13,
  });
  expect(await readdir(yard.at('out'))).toEqual([]);
});

test('an animation is a clip whose pictures become a sequence, at the rate that it says', async () => {
  const flat = (r: number) => sharp({ create: { width: 8, height: 6, channels: 3, background: { r, g: 0, b: 0 } } });
  const pictures = await Promise.all([0, 100, 200].map((red) => flat(red).png().toBuffer()));
  const delay = [40, 40, 40];
  await sharp(pictures, { join: { animated: true } })
    .gif({ delay })
    .toFile(yard.at('in', 'wave.gif'));
  const plan = await yard.planOf(
    { ...wanted, write: { ...wanted.write, alpha: 'none' } },
    { transfer: 'srgb', alpha: 'none' },
  );
  expect(plan.source).toMatchObject({ kind: 'clip', coverage: [{ first: 0, last: 2, step: 1 }] });
  expect(plan.declaration.rate.value).toEqual({ num: 25, den: 1 });
  const { failed, names } = await yard.carry(plan);
  expect([failed, names]).toEqual([[], ['g.0001.png', 'g.0002.png', 'g.0003.png']]);
  const reds = await Promise.all(names.map((name) => readStill(yard.at('out', name))));
  expect(reds.map(({ data }) => data[0])).toEqual([0, 100, 200]);
});
