import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { declare, makePlan, parseSpec, type CodecId, type Image, type Plan, type SpecInput } from '@shale/core';
import { ClipReader, probeClip, usualSettings, writeStill } from '@shale/media';
import { numberIn, numbered } from '@shale/media/video/testClips.ts';
import { makeVideo } from './video.ts';
import { scanFolders } from './scan.ts';
import { spansPerProcess, WorkerPool } from './pool.ts';

// What is asked of an encoder beside its pictures: a bitrate that it misses by itself, sides that share no colour sample.
let folder: string;
let pool: WorkerPool;
const places = () => ({ source: join(folder, 'in'), target: join(folder, 'out') });
const count = 24;

/** Noise that the codec has to pay for, under a number. */
function pictureOf(at: number, width: number, height: number): Image {
  const grey = numbered(at, width, height);
  const data = new Uint8Array(width * height * 3);
  grey.forEach((value, pixel) => {
    const noise = (Math.imul(pixel + at * 7919, 2_654_435_761) >>> 24) & 31;
    for (let channel = 0; channel < 3; channel += 1)
      data[pixel * 3 + channel] = pixel < grey.length / 2 ? value : Math.min(255, value + noise);
  });
  return { width, height, channels: 3, sample: 'u8', data };
}

beforeAll(() => {
  pool = new WorkerPool(1, { together: spansPerProcess });
});
afterAll(() => pool.close());
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-rates-'));
  await mkdir(join(folder, 'in'));
  await mkdir(join(folder, 'out'));
});
afterEach(() => rm(folder, { recursive: true, force: true }));

async function planOf(format: CodecId, size: [number, number], video: SpecInput['video']): Promise<Plan> {
  for (let at = 1; at <= count; at += 1)
    await writeStill(join(folder, 'in', `f_${at}.png`), 'png', pictureOf(at, ...size), usualSettings);
  const found = [];
  for await (const { sources } of scanFolders(join(folder, 'in'), pool)) found.push(...sources);
  const source = found[0]!;
  const spec = parseSpec({
    version: 1,
    write: { format, sample: 'u8', alpha: 'none', transfer: 'bt709' },
    names: { stem: 'g' },
    into: { root: 'out', folder: '' },
    video: { speed: 8, ...video },
  });
  return makePlan('in', source, declare(source, { rate: { num: 24, den: 1 }, transfer: 'bt709' }), spec);
}

test.each([
  ['vp9', 350],
  ['av1', 1200],
  ['mpeg2', 1200],
] as const)('%s comes to the bitrate that is asked for, and it is told', async (format, bitrate) => {
  const plan = await planOf(format, [320, 180], { control: 'bitrate', bitrate });
  expect(plan.problems).toEqual([]);
  const told: { done: number; of: number }[] = [];
  const made = await makeVideo({ plan, places: places(), job: 'j' }, (progress) => told.push(progress));
  // The pictures' own bytes, as another way to it: those of all packets of the file.
  const { facts } = await probeClip(join(folder, 'out', made!.name));
  const kilobits = (facts.clip!.bytes * 8 * 24) / count / 1000;
  // A container may leave out what parts pictures of AV1.
  expect(Math.abs(made!.video!.kilobits! / kilobits - 1)).toBeLessThan(0.01);
  expect(Math.abs(kilobits / bitrate - 1)).toBeLessThan(0.2);
  expect(told.every(({ done, of }) => done <= of)).toBe(true);
});

test('a video by quality tells of no bitrate', async () => {
  const plan = await planOf('vp9', [96, 48], { control: 'quality', crf: 30 });
  const made = await makeVideo({ plan, places: places(), job: 'j' }, () => undefined);
  expect(made!.video!.kilobits).toBeNull();
});

test('a bitrate that its codec does not look at is not told of as asked for', async () => {
  const plan = await planOf('ffv1', [96, 48], { control: 'bitrate', bitrate: 500 });
  const made = await makeVideo({ plan, places: places(), job: 'j' }, () => undefined);
  expect(made!.video!.kilobits).toBeNull();
});

test.each([
  ['vp9', 97, 49],
  ['vp9', 96, 49],
  ['av1', 97, 49],
] as const)('%s holds %d x %d, whole to its last row and column', async (format, width, height) => {
  const plan = await planOf(format, [width, height], { control: 'quality', crf: 4 });
  expect(plan.problems).toEqual([]);
  const made = await makeVideo({ plan, places: places(), job: 'j' }, () => undefined);
  expect(made!.video).toMatchObject({ width, height, frames: count });
  const reader = await ClipReader.open(join(folder, 'out', made!.name));
  try {
    for (const at of [0, count - 1]) {
      const [image, meant] = [await reader.picture(at), pictureOf(at + 1, width, height)];
      expect([image.width, image.height]).toEqual([width, height]);
      expect(numberIn(image)).toBe(at + 1);
      const off = (places: number[]) =>
        places.reduce((sum, place) => sum + Math.abs(image.data[place * 3 + 1]! - meant.data[place * 3 + 1]!), 0) /
        places.length;
      expect(off(Array.from({ length: height }, (_, y) => y * width + width - 1))).toBeLessThan(8);
      expect(off(Array.from({ length: width }, (_, x) => (height - 1) * width + x))).toBeLessThan(8);
    }
  } finally {
    await reader.close();
  }
});

test('what shares colour samples and cannot end on an odd side says so, as before', async () => {
  const plan = await planOf('h264', [97, 49], { control: 'quality', crf: 20 });
  expect(plan.problems.map(({ code }) => code)).toEqual(['odd-size']);
});
