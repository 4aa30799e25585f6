import { mkdir, mkdtemp, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  cadenceWords,
  declare,
  holdsOf,
  makePlan,
  parseSpec,
  type Given,
  type Image,
  type Plan,
  type Source,
  type SpecInput,
  type Written,
} from '@shale/core';
import { betweenByMotion, ClipReader, probeClip, readStill, usualSettings, writeStill } from '@shale/media';
import { numberIn, numbered, writeTestClip } from '@shale/media/video/testClips.ts';
import { findCadence } from './cadence.ts';
import { carryOut } from './carry-out.ts';
import { spansPerProcess, WorkerPool } from './pool.ts';
import { preflight } from './preflight.ts';
import { scanFolders } from './scan.ts';

let pool: WorkerPool;
let folder: string;
beforeAll(() => {
  pool = new WorkerPool(2, { together: spansPerProcess });
});
afterAll(() => pool.close());
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-time-'));
  for (const name of ['in', 'out', 'back']) await mkdir(join(folder, name));
});
afterEach(() => rm(folder, { recursive: true, force: true }));

const [width, height] = [96, 64];
const upTo = (count: number) => Array.from({ length: count }, (_, at) => at + 1);

/** A 16-bit picture that shows its number, every row different. */
function frameOf(frame: number, hasAlpha = false): Image {
  const channels = hasAlpha ? 4 : 3;
  const data = new Uint16Array(width * height * channels);
  numbered(frame, width, height).forEach((value, pixel) => {
    for (let at = 0; at < 3; at += 1) data[pixel * channels + at] = value * 257 - ((pixel * (at + 3)) % 200);
    if (hasAlpha) data[pixel * channels + 3] = ((pixel + frame) % 256) * 257;
  });
  return { width, height, channels, sample: 'u16', data };
}
const put = async (frames: readonly number[], make = frameOf, name = 'f', into = 'in') => {
  for (const frame of frames)
    await writeStill(
      join(folder, into, `${name}_${String(frame).padStart(3, '0')}.png`),
      'png',
      make(frame),
      usualSettings,
    );
};

async function sourcesOf(into = 'in'): Promise<Source[]> {
  const found: Source[] = [];
  for await (const { sources } of scanFolders(join(folder, into), pool)) found.push(...sources);
  return found.sort((a, b) => a.name.localeCompare(b.name));
}

const write = { format: 'png', sample: 'u16', alpha: 'none', transfer: 'srgb' } as const;
const rate = (num: number, den = 1) => ({ num, den });

async function run(
  source: Source,
  from: string,
  into: string,
  more: Partial<SpecInput>,
  at = rate(24),
  given: Given = {},
) {
  const spec = parseSpec({
    version: 1,
    write,
    names: { stem: 'g', first: 1 },
    into: { root: into, folder: '' },
    ...more,
  });
  const plan = makePlan(from, source, declare(source, { rate: at }), spec, given);
  return { plan, ...(await carry(plan, from, into)) };
}
async function carry(plan: Plan, from: string, into: string) {
  const written: Written[] = [];
  const failed: string[] = [];
  const places = { source: join(folder, from), target: join(folder, into), shots: plan.shots.map(({ root }) => root) };
  expect(await preflight(plan, places, 'j1')).toEqual([]);
  await carryOut({
    plan,
    places,
    job: 'j1',
    pool,
    onWritten: (one) => written.push(one),
    onFailed: ({ fact }) => failed.push(fact),
  });
  expect(failed).toEqual([]);
  return { written: written.sort((a, b) => a.index - b.index) };
}
const made = (name: string, into = 'out') => readStill(join(folder, into, name));
const still = (number: number) => `g.${String(number).padStart(4, '0')}.png`;
async function numbersIn(path: string): Promise<number[]> {
  const reader = await ClipReader.open(path);
  const found = [];
  for (let at = 0; at < reader.count; at += 1) found.push(numberIn(await reader.picture(at)));
  await reader.close();
  return found;
}

test.each(['top', 'bottom'] as const)(
  '3:2 pulldown in and out again is bit for bit what it was, %s lines first',
  async (lines) => {
    await put(upTo(8));
    const [source] = await sourcesOf();
    const { plan } = await run(source!, 'in', 'out', { time: { pulldown: true, lines } });
    expect(plan.rate).toEqual(rate(30));
    expect((await readdir(join(folder, 'out'))).length).toBe(10);
    const [woven] = await sourcesOf('out');
    const cadence = await findCadence(join(folder, 'out'), woven!, pool);
    expect(cadence.frames).toBe(10);
    const back = await run(woven!, 'out', 'back', { time: { undo: 'pulldown', lines } }, rate(30));
    expect(back.plan.rate).toEqual(rate(24));
    expect(back.written).toHaveLength(8);
    for (const frame of upTo(8)) expect((await made(still(frame), 'back')).data).toEqual(frameOf(frame).data);
  },
);

test('a blend is the mean of both in every sample, and straight alpha weighs its colours', async () => {
  await put([1, 2]);
  const [source] = await sourcesOf();
  await run(source!, 'in', 'out', { time: { how: 'rate', rate: rate(48), between: 'blend' } });
  const [a, b, between] = [frameOf(1), frameOf(2), await made(still(2))];
  expect(between.data).toEqual(Uint16Array.from(a.data, (value, at) => Math.round((value + b.data[at]!) / 2)));
  expect((await made(still(1))).data).toEqual(a.data);
  expect((await made(still(3))).data).toEqual(b.data);
  await rm(join(folder, 'out'), { recursive: true });
  await put([1, 2], (frame) => frameOf(frame, true), 'h');
  const withAlpha = (await sourcesOf()).find(({ name }) => name.startsWith('h'))!;
  const spec = {
    write: { ...write, alpha: 'straight' as const },
    time: { how: 'rate' as const, rate: rate(48), between: 'blend' as const },
  };
  const { plan } = await run(withAlpha, 'in', 'out', { ...spec, names: { stem: 'h', first: 1 } });
  expect(plan.losses.map(({ code }) => code)).toContain('frames-blended');
  const [c, d, mixed] = [frameOf(1, true), frameOf(2, true), await made('h.0002.png')];
  for (let at = 0; at < mixed.data.length; at += 4) {
    const [first, second] = [c.data[at + 3]!, d.data[at + 3]!];
    expect(mixed.data[at + 3]).toBe(Math.round((first + second) / 2));
    const weighed =
      first + second === 0
        ? (c.data[at]! + d.data[at]!) / 2
        : (c.data[at]! * first + d.data[at]! * second) / (first + second);
    expect(Math.abs(mixed.data[at]! - weighed)).toBeLessThanOrEqual(1);
  }
});

/** A soft spot on a ground with a grain that does not move. */
const spot = (x: number): Image => {
  const data = new Uint8Array(width * 2 * height * 2 * 3);
  for (let y = 0; y < height * 2; y += 1)
    for (let at = 0; at < width * 2; at += 1) {
      const far = Math.hypot(at - x, y - 64);
      const value = Math.max(30 + ((at * 7 + y * 13) % 9), 230 - far * 7);
      data.fill(Math.round(value), (y * width * 2 + at) * 3, (y * width * 2 + at) * 3 + 3);
    }
  return { width: width * 2, height: height * 2, channels: 3, sample: 'u8', data };
};
/** Where the light of a picture is, across. */
function middleOf({ width: across, data, channels }: Image): number {
  let [sum, weight] = [0, 0];
  for (let pixel = 0; pixel < data.length / channels; pixel += 1) {
    const light = Math.max(0, data[pixel * channels]! - 60);
    sum += light * (pixel % across);
    weight += light;
  }
  return sum / weight;
}

test('a frame made up by motion has what moves where it would be, at any share of the way', async () => {
  const around = [40, 56, 72, 88].map(spot) as [Image, Image, Image, Image];
  for (const weight of [256, 512, 768]) {
    const image = await betweenByMotion(around, weight);
    expect(Math.abs(middleOf(image) - (56 + (16 * weight) / 1024))).toBeLessThan(2);
    // One spot, and no two faint ones as in a blend.
    expect(Math.max(...image.data)).toBeGreaterThan(200);
  }
  const deep = around.map((image) => ({
    ...image,
    sample: 'u16' as const,
    data: Uint16Array.from(image.data, (one) => one * 257),
  }));
  expect(
    Math.abs(
      middleOf({
        ...(await betweenByMotion(deep as never, 512)),
        data: Uint8Array.from((await betweenByMotion(deep as never, 512)).data, (one) => one / 257),
      }) - 64,
    ),
  ).toBeLessThan(2);
  const float = { ...around[0], sample: 'f32' as const, data: new Float32Array(around[0].data.length) };
  await expect(betweenByMotion([float, float, float, float], 512)).rejects.toThrow('8 bits');
});

test('a clip runs backward and twice as fast, and shots of stills and a clip become one video', async () => {
  await writeTestClip(join(folder, 'in', 'c.mp4'), {
    count: 40,
    width,
    height,
    options: { g: '12', bf: '2', crf: '10' },
  });
  await put(upTo(6));
  const [clip, frames] = await sourcesOf();
  const curve = {
    keys: [
      { from: 30, to: 0 },
      { from: 10, to: 10 },
    ],
    backward: true,
  };
  const film = {
    write: { format: 'ffv1' as const, sample: 'u8' as const, alpha: 'none' as const, transfer: 'bt709' as const },
  };
  await run(clip!, 'in', 'out', { ...film, time: { how: 'curve', curve } }, rate(25));
  expect(await numbersIn(join(folder, 'out', 'g.mkv'))).toEqual([30, 28, 26, 24, 22, 20, 18, 16, 14, 12, 10]);
  const given: Given = {
    shots: [{ root: join(folder, 'in'), source: clip!, declaration: declare(clip!, { rate: rate(25) }) }],
  };
  const then = [{ source: { root: 'in', folder: '', name: 'c.mp4' }, frames: '5-8' }];
  const joined = await run(
    frames!,
    'in',
    'back',
    { ...film, frames: '2-4', then, mixed: 'fit', write: { ...film.write, transfer: 'srgb' } },
    rate(25),
    given,
  );
  expect(joined.plan.problems).toEqual([]);
  expect(await numbersIn(join(folder, 'back', 'g.mkv'))).toEqual([2, 3, 4, 5, 6, 7, 8]);
});

test('repeated frames of a real clip are found and undone', async () => {
  await writeTestClip(join(folder, 'in', 'c.mp4'), {
    count: 48,
    width,
    height,
    options: { crf: '22' },
    picture: (at, across, down) => numbered(Math.floor(at / 2), across, down),
  });
  const [clip] = await sourcesOf();
  const cadence = await findCadence(join(folder, 'in'), clip!, pool);
  expect(cadenceWords(cadence, rate(25))).toBe('On twos');
  expect(cadence.repeats).toEqual([{ first: 1, last: 47, step: 2 }]);
  const { plan } = await run(
    clip!,
    'in',
    'out',
    { time: { undo: 'holds' }, write: { ...write, sample: 'u8', transfer: 'bt709' } },
    rate(25),
    { holds: holdsOf(cadence) },
  );
  expect([plan.frames, plan.rate]).toEqual([24, rate(25, 2)]);
  expect(numberIn(await made(still(24)))).toBe(23);
});

test('texts are written into the pictures and nowhere else; a title goes before, and the timecode with it', async () => {
  await put(upTo(5));
  const [source] = await sourcesOf();
  await run(source!, 'in', 'out', { burn: { left: '{frame:4}', right: '{timecode}', size: 12 } });
  const image = await made(still(3));
  const plain = frameOf(3);
  const changed = Array.from({ length: height }, (_, y) => {
    const row = (data: Image['data']) => data.slice(y * width * 3, (y + 1) * width * 3);
    return row(image.data).some((value, at) => value !== row(plain.data)[at]);
  });
  expect(changed.lastIndexOf(false)).toBeGreaterThan(height * 0.6);
  expect(changed.slice(0, Math.floor(height * 0.7)).some((one) => one)).toBe(false);
  expect(changed.slice(Math.floor(height * 0.8)).filter((one) => one).length).toBeGreaterThan(4);
  const other = await made(still(4));
  expect(other.data.subarray(Math.floor(height * 0.8) * width * 3)).not.toEqual(
    image.data.subarray(Math.floor(height * 0.8) * width * 3),
  );
  const { plan } = await run(source!, 'in', 'back', {
    write: { format: 'h264', sample: 'u8', alpha: 'none', transfer: 'srgb' },
    burn: { slate: 12 },
    video: { timecode: '01:00:00:00', container: 'mov' },
  });
  expect(plan.frames).toBe(17);
  const path = join(folder, 'back', 'g.mov');
  const { facts } = await probeClip(path);
  expect([facts.frames, facts.timecode]).toEqual([17, '00:59:59:12']);
  const reader = await ClipReader.open(path);
  const [title, first] = [await reader.picture(0), numberIn(await reader.picture(12))];
  await reader.close();
  expect(first).toBe(1);
  expect(new Set(title.data).size).toBeGreaterThan(20);
});
