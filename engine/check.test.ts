import { mkdtemp, readFile, rm, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { usualSettings, writeStill } from '@shale/media';
import { writeTestClip } from '@shale/media/video/testClips.ts';
import type { Source } from '@shale/core';
import { checkSource, type Checked, type CheckProgress } from './check.ts';
import { WorkerPool } from './pool.ts';
import { loadReadings } from './readings.ts';
import { scanFolder } from './scan.ts';

let pool: WorkerPool;
let folder: string;
let readings: string;
beforeAll(() => {
  pool = new WorkerPool(2);
});
afterAll(() => pool.close());
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-check-'));
  readings = join(tmpdir(), `shale-check-${process.pid}.bin`);
});
afterEach(async () => {
  await rm(folder, { recursive: true, force: true });
  await rm(readings, { force: true });
});

const older = new Date(Date.now() - 3_600_000);
const age = (name: string, time = older) => utimes(join(folder, name), time, time);

async function put(name: string, seed: number): Promise<void> {
  const data = Uint8Array.from(
    { length: 40 * 30 * 3 },
    (_, at) => (Math.imul(at + seed * 7919, 2_654_435_761) >>> 9) & 255,
  );
  await rm(join(folder, name), { force: true });
  await writeStill(
    join(folder, name),
    'png',
    { width: 40, height: 30, channels: 3, sample: 'u8', data },
    usualSettings,
  );
  await age(name);
}

/** Turns a byte in the middle of a file: its header stays as it is. */
async function damage(name: string, at = 0.5): Promise<void> {
  const bytes = await readFile(join(folder, name));
  bytes[Math.floor(bytes.length * at)]! ^= 0xff;
  await writeFile(join(folder, name), bytes);
  await age(name);
}

async function scan(checked?: Checked): Promise<Source[]> {
  const options = { readingsOf: () => readings, checkedIn: () => checked };
  let sources: Source[] = [];
  for await (const scanned of scanFolder(folder, '', pool, options)) sources = scanned.sources;
  return sources;
}

async function check(source: Source, known = false): Promise<{ checked: Checked; last: CheckProgress }> {
  const checked: Checked = new Map();
  let last: CheckProgress = { done: -1, total: -1, damaged: -1 };
  const options = { onProgress: (now: CheckProgress) => (last = now) };
  await checkSource(folder, source, pool, checked, {
    ...options,
    ...(known ? { known: await loadReadings(readings) } : {}),
  });
  return { checked, last };
}

const faults = ({ findings }: Source) =>
  findings.filter(({ severity }) => severity === 'fault').map(({ code, short }) => `${code}: ${short}`);

test('damage that headers do not show is found by frame, kept between scans, and gone with the file that had it', async () => {
  for (let frame = 1; frame <= 12; frame += 1) await put(`bell.${frame}.png`, frame);
  await damage('bell.7.png');
  const [before] = await scan();
  expect(faults(before!)).toEqual([]);
  expect(before!.checked).toBeUndefined();
  const { checked, last } = await check(before!);
  expect(last).toEqual({ done: 12, total: 12, damaged: 1 });
  const [found] = await scan(checked);
  expect(faults(found!)).toEqual(['damaged-file: Frame 7 damaged']);
  expect(found!.checked).toBe(12);
  // A scan that knows nothing of a check keeps what the last one found.
  const [kept] = await scan();
  expect(faults(kept!)).toEqual(['damaged-file: Frame 7 damaged']);
  await put('bell.7.png', 70);
  await age('bell.7.png', new Date(older.getTime() + 5000));
  const [mended] = await scan();
  expect(faults(mended!)).toEqual([]);
  expect(mended!.checked).toBe(11);
  // Only what changed is decoded again.
  const again = await check(mended!, true);
  expect(again.last).toEqual({ done: 1, total: 1, damaged: 0 });
  expect([...again.checked.keys()]).toEqual(['bell.7.png']);
  expect((await scan(again.checked))[0]!.checked).toBe(12);
});

test('a frame that comes between shifts no finding to its neighbour', async () => {
  for (const frame of [1, 2, 4, 5]) await put(`bell.${frame}.png`, frame);
  await damage('bell.4.png');
  const [before] = await scan();
  await scan((await check(before!)).checked);
  await put('bell.3.png', 3);
  const [after] = await scan();
  expect(faults(after!)).toEqual(['damaged-file: Frame 4 damaged']);
  expect(after!.checked).toBe(4);
});

test('stills are checked each by itself', async () => {
  await put('plan.png', 1);
  await put('map.png', 2);
  await damage('map.png');
  const sources = await scan();
  const checked: Checked = new Map();
  for (const source of sources) await checkSource(folder, source, pool, checked);
  const after = await scan(checked);
  expect(after.map((source) => [source.name, source.checked, faults(source)])).toEqual([
    ['map.png', 1, ['damaged-file: Damaged']],
    ['plan.png', 1, []],
  ]);
});

test('pictures of a clip fail by number, also where the decoder puts others in their place', async () => {
  const path = join(folder, 'tram.mkv');
  await writeTestClip(path, {
    count: 40,
    width: 96,
    height: 64,
    encoder: 'ffv1',
    container: 'matroska',
    options: { level: '3', slicecrc: '1', slices: '4', g: '1' },
  });
  await age('tram.mkv');
  const [whole] = await scan();
  const first = await check(whole!);
  expect(first.last).toEqual({ done: 40, total: 40, damaged: 0 });
  expect((await scan(first.checked))[0]!.checked).toBe(40);
  await damage('tram.mkv');
  await age('tram.mkv', new Date(older.getTime() + 9000));
  const [changed] = await scan();
  expect(changed!.checked).toBeUndefined();
  const { checked, last } = await check(changed!);
  expect(last).toEqual({ done: 40, total: 40, damaged: 1 });
  const [found] = await scan(checked);
  expect(faults(found!)).toEqual([expect.stringMatching(/^damaged-file: Frame \d+ damaged$/)]);
});

test('a file that is gone or changes meanwhile is not called decoded', async () => {
  for (const frame of [1, 2, 3]) await put(`bell.${frame}.png`, frame);
  const [source] = await scan();
  await rm(join(folder, 'bell.2.png'));
  const { checked } = await check(source!);
  expect([...checked.keys()].sort()).toEqual(['bell.1.png', 'bell.3.png']);
  await put('bell.3.png', 33);
  await age('bell.3.png', new Date(older.getTime() + 5000));
  expect((await scan(checked))[0]!.checked).toBe(1);
});

test('it stops when it is told to, and what it has is kept', async () => {
  for (let frame = 1; frame <= 40; frame += 1) await put(`bell.${frame}.png`, frame);
  const [source] = await scan();
  const checked: Checked = new Map();
  const stop = new AbortController();
  const onProgress = ({ done }: CheckProgress) => done >= 8 && stop.abort();
  await expect(checkSource(folder, source!, pool, checked, { signal: stop.signal, onProgress })).rejects.toThrow();
  expect((await scan(checked))[0]!.checked ?? 0).toBeLessThan(40);
});

test('a process that is killed meanwhile costs nothing but its time', async () => {
  for (let frame = 1; frame <= 30; frame += 1) await put(`bell.${frame}.png`, frame);
  const [source] = await scan();
  const checked: Checked = new Map();
  let killed = false;
  const onProgress = ({ done }: CheckProgress) => {
    if (killed || done < 4) return;
    killed = true;
    for (const pid of pool.pids) process.kill(pid, 'SIGKILL');
  };
  await checkSource(folder, source!, pool, checked, { onProgress });
  expect(killed).toBe(true);
  expect([...checked.values()].flatMap(({ faults }) => faults)).toEqual([]);
  expect((await scan(checked))[0]!.checked).toBe(30);
});
