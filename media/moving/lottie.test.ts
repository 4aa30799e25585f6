import { mkdtemp, readFile, rm, stat } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { parseSpec, type Image } from '@shale/core';
import type { VideoSettings } from '../video/videoWriter.ts';
import { openMoving } from '../video/movingWriter.ts';
import { openMade } from './animationReader.ts';
import { frameBytesOf } from './frameBytes.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-lottie-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const [width, height] = [23, 17];
const picture = (seed: number): Image => ({
  ...{ width, height, channels: 4, sample: 'u8' },
  data: Uint8Array.from({ length: width * height * 4 }, (_, at) => (at * 7 + seed * 31 + ((at * seed) % 11)) % 256),
});

const settingsOf = (video: object): VideoSettings => {
  const spec = parseSpec({
    ...{ version: 1, write: { format: 'lottie', sample: 'u8', alpha: 'straight', transfer: 'srgb' }, video },
  });
  return {
    ...{ format: 'lottie', video: spec.video, width, height, sample: 'u8', hasAlpha: true },
    ...{ rate: { num: 24_000, den: 1001 }, transfer: 'srgb', primaries: 'bt709', pixelAspect: { num: 1, den: 1 } },
  };
};

async function write(name: string, video: object, pictures: readonly Image[]): Promise<string> {
  const path = join(folder, name);
  const writer = await openMoving(path, settingsOf(video));
  for (const one of pictures) await writer.add(one);
  await writer.finish();
  await writer.close();
  expect(writer.bytes).toBe((await stat(path)).size);
  return path;
}

// The schema of the format's own community, as its package has it.
const schema = JSON.parse(
  await readFile(
    createRequire(import.meta.url).resolve('@lottie-animation-community/lottie-specs/src/data/lottie.schema.json'),
    'utf8',
  ),
) as object;

test('lossless: valid by the format’s own schema, every sample as it went in, a picture that stays stored once', async () => {
  const pictures = [picture(1), picture(2), picture(2), picture(2), picture(3)];
  const path = await write('kept.json', { lossless: true }, pictures);
  const made = JSON.parse(await readFile(path, 'utf8')) as { assets: object[]; fr: number; op: number; ip: number };
  const ajv = new Ajv2020({ strict: false, allErrors: true });
  ajv.addKeyword({ keyword: '$version' });
  const isValid = ajv.compile(schema);
  expect([isValid(made), isValid.errors]).toEqual([true, null]);
  expect([made.assets.length, made.ip, made.op]).toEqual([3, 0, 5]);
  expect(made.fr).toBeCloseTo(23.976, 3);
  const reader = await openMade(path, settingsOf({}), 5);
  expect(reader.count).toBe(5);
  for (const [at, one] of pictures.entries()) expect([...(await reader.picture(at)).data]).toEqual([...one.data]);
  await expect(reader.picture(5)).rejects.toThrow('no picture shows at frame 5');
  await reader.close();
  const frames = (await frameBytesOf(path, 'lottie'))!;
  expect(frames).toHaveLength(3);
  expect(frames.reduce((sum, bytes) => sum + bytes, 0)).toBeLessThan((await stat(path)).size);
});

test('lossy: smaller by quality, alpha as it was', async () => {
  const pictures = [1, 2, 3, 4].map(picture);
  const size = async (quality: number) => (await stat(await write(`q${quality}.json`, { quality }, pictures))).size;
  expect(await size(20)).toBeLessThan(await size(95));
  const reader = await openMade(join(folder, 'q95.json'), settingsOf({}), 4);
  const { data } = await reader.picture(2);
  const alphaOf = (samples: Image['data']) => [...samples].filter((_, at) => at % 4 === 3);
  expect(alphaOf(data)).toEqual(alphaOf(pictures[2]!.data));
});
