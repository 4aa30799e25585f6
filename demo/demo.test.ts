import { createHash } from 'node:crypto';
import { mkdtemp, readdir, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { groupNames } from '@shale/core';
import { probeStill, readStill } from '@shale/media';
import { drawDemo } from './draw.ts';
import { randomFrom } from './random.ts';

// The whole of it, drawn by the set-up of the tests.
const demo = process.env.SHALE_DEMO ?? join(import.meta.dirname, '..', '.shale', 'demo', 'tram_museum');

test('the seed gives the same numbers on every machine', () => {
  const random = randomFrom(404);
  expect([random(), random(), random()].map((value) => value.toFixed(9))).toEqual([
    '0.353255932',
    '0.897169843',
    '0.146530420',
  ]);
  expect(randomFrom(7)()).toBe(randomFrom(7)());
});

test('a scene drawn twice has the same bytes, and a second drawing leaves the first alone', async () => {
  const folder = await mkdtemp(join(tmpdir(), 'shale-demo-'));
  const sums = async (name: string) => {
    const root = join(folder, name, 'turntables', 'ticket_loop_60fps');
    const names = (await readdir(root)).sort();
    return Promise.all(
      names.map(
        async (file) =>
          `${file} ${createHash('sha256')
            .update(await readFile(join(root, file)))
            .digest('hex')}`,
      ),
    );
  };
  try {
    expect(await drawDemo(join(folder, 'a'), ['ticket_loop'])).toBe(true);
    expect(await drawDemo(join(folder, 'b'), ['ticket_loop'])).toBe(true);
    expect(await drawDemo(join(folder, 'a'), ['ticket_loop'])).toBe(false);
    expect(await sums('a')).toEqual(await sums('b'));
    expect(await sums('a')).toHaveLength(60);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
});

const listed = async (folder: string) => {
  const names = await readdir(join(demo, folder));
  const [sequence] = groupNames(names).sequences;
  return Array.from(sequence!.files, (index) => names[index]!);
};

test.each([
  [
    'plates/depot_pan',
    96,
    { format: 'exr', sample: 'f16', compression: 'DWAA', hasAlpha: true, rate: { num: 24, den: 1 } },
  ],
  [
    'lines/line_04',
    24,
    { format: 'exr', sample: 'f16', compression: 'ZIP', hasAlpha: true, rate: { num: 24, den: 1 } },
  ],
  ['lines/line_10', 22, { format: 'exr', sample: 'f16', hasAlpha: true }],
  ['turntables/bell_turn', 59, { format: 'png', sample: 'u16', hasAlpha: true }],
  ['walks/conductor_walk_12fps', 24, { format: 'tga', sample: 'u8', hasAlpha: true }],
  ['yard_cams/yard_cam_a', 120, { format: 'jpeg', sample: 'u8', hasAlpha: false }],
  [
    'plates/timetable_scan',
    24,
    {
      format: 'dpx',
      sample: 'u10',
      transfer: 'film-log',
      rate: { num: 24, den: 1 },
      timecode: '01:00:00:00',
      sequenceLength: 24,
    },
  ],
])('%s is what the scenario says', async (folder, count, facts) => {
  const names = await listed(folder);
  expect(names).toHaveLength(count);
  expect(await probeStill(join(demo, folder, names[0]!))).toMatchObject(facts);
});

test('a day of twelve lines: two without a rate, some of the same name', async () => {
  const lines = (await readdir(join(demo, 'lines'))).sort();
  expect(lines).toHaveLength(12);
  const first = async (line: string) => (await readdir(join(demo, 'lines', line))).sort()[0]!;
  const facts = await Promise.all(lines.map(async (line) => probeStill(join(demo, 'lines', line, await first(line)))));
  expect(facts.flatMap(({ rate }, at) => (rate ? [] : lines[at]!))).toEqual(['line_03', 'line_08']);
  expect(await first('line_04')).toBe(await first('line_05'));
});

test('the conductor is drawn on twos', async () => {
  const walk = join(demo, 'walks', 'conductor_walk_12fps');
  const picture = async (frame: string) =>
    Buffer.from((await readStill(join(walk, `conductor_walk-${frame}.tga`))).data.buffer);
  expect((await picture('001')).equals(await picture('002'))).toBe(true);
  expect((await picture('002')).equals(await picture('003'))).toBe(false);
});

test('the film scan uses ten bits', async () => {
  const { data } = await readStill(join(demo, 'plates', 'timetable_scan', 'timetable_scan.86410.dpx'));
  const most = (data as Uint16Array).reduce((a, b) => Math.max(a, b), 0);
  expect(most).toBeLessThan(1024);
  expect(most).toBeGreaterThan(400);
});
