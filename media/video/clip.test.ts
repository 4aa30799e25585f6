import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { numberToHalf, takenAs, type Declaration, type Image } from '@shale/core';
import { makePreview } from '../preview.ts';
import sharp from 'sharp';
import { mirrorOf, turnOf } from './clipTraits.ts';
import { probeClip, probeSound, readPicture } from './clip.ts';

// The demo footage, drawn by the set-up of the tests.
const demo = process.env.SHALE_DEMO ?? join(import.meta.dirname, '..', '..', '.shale', 'demo', 'tram_museum');
const plate = join(demo, 'plates', 'platform_plate.mp4');
let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-clips-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

test('H.264: rate, count and length are exact', async () => {
  expect((await probeClip(plate)).facts).toMatchObject({
    width: 1280,
    height: 720,
    format: 'h264',
    sample: 'u8',
    hasAlpha: false,
    rate: { num: 25, den: 1 },
    seconds: { num: 10, den: 1 },
    frames: 250,
  });
});

test('ProRes 4444: its alpha comes along, opaque where the tram is', async () => {
  const path = join(demo, 'plates', 'night_run.mov');
  expect((await probeClip(path)).facts).toMatchObject({
    sample: 'u16',
    hasAlpha: true,
    rate: { num: 30, den: 1 },
    frames: 60,
  });
  const image = await readPicture(path, 0);
  const alphas = new Set<number>();
  for (let at = 3; at < image.data.length; at += 4) alphas.add(image.data[at]!);
  expect([alphas.has(0), alphas.has(65_535)]).toEqual([true, true]);
});

test('the first frame has the size that the facts give, and is no grey nothing', async () => {
  const image = await readPicture(plate, 0);
  expect([image.width, image.height, image.channels, image.data.length]).toEqual([1280, 720, 3, 1280 * 720 * 3]);
  expect(new Set(image.data.subarray(0, 400_000)).size).toBeGreaterThan(50);
});

test('a sound has its length', async () => {
  expect(await probeSound(join(demo, 'sounds', 'announcement.wav'))).toEqual({
    seconds: { num: 4, den: 1 },
    more: [['Sound', '48000 Hz, one channel']],
  });
});

test.each([
  ['nothing', (bytes: Buffer) => bytes.subarray(0, 0)],
  ['a text', () => Buffer.from('not a clip at all')],
  ['one cut in its header', (bytes: Buffer) => bytes.subarray(0, 400)],
])('%s is refused by name', async (_, change) => {
  const path = join(folder, 'broken.mp4');
  await writeFile(path, change(await readFile(plate)));
  await expect(probeClip(path)).rejects.toMatchObject({
    code: 'damaged-file',
    fact: expect.stringContaining('broken.mp4'),
  });
  await expect(readPicture(path, 0)).rejects.toMatchObject({ code: 'damaged-file' });
});

test('a clip is no sound, a sound no clip', async () => {
  await expect(probeClip(join(demo, 'sounds', 'announcement.wav'))).rejects.toMatchObject({
    fact: expect.stringContaining('no picture'),
  });
});

describe('previews', () => {
  const taken = (alpha: 'straight' | 'premultiplied', transfer: 'srgb' | 'linear'): Declaration => ({
    rate: { value: null, grounds: 'none' },
    alpha: { value: alpha, grounds: 'word' },
    transfer: { value: transfer, grounds: 'word' },
    primaries: { value: 'bt709', grounds: 'word' },
    first: { value: 0, grounds: 'word' },
    pixelAspect: { value: { num: 1, den: 1 }, grounds: 'word' },
    matte: { value: null, grounds: 'none' },
  });
  const pixels = async (image: Image, declaration: Declaration, width = 8) => {
    const preview = await makePreview(image, takenAs(declaration), width, 'png');
    return sharp(preview).raw().toBuffer({ resolveWithObject: true });
  };

  test('show linear, premultiplied light as straight sRGB', async () => {
    const data = Uint16Array.from({ length: 8 * 8 * 4 }, (_, at) => numberToHalf(at % 4 === 3 ? 0.5 : 0.1072));
    const { data: shown } = await pixels(
      { width: 8, height: 8, channels: 4, sample: 'f16', data },
      taken('premultiplied', 'linear'),
    );
    // 0.1072 / 0.5 is 0.2144 linear, which is 0.5004 in sRGB.
    expect([...shown.subarray(0, 4)]).toEqual([128, 128, 128, 128]);
  });

  test('are never enlarged, and keep their shape', async () => {
    const small: Image = { width: 4, height: 2, channels: 3, sample: 'u8', data: new Uint8Array(24).fill(9) };
    expect((await pixels(small, taken('straight', 'srgb'), 100)).info).toMatchObject({ width: 4, height: 2 });
    const wide: Image = {
      width: 400,
      height: 100,
      channels: 1,
      sample: 'u16',
      data: new Uint16Array(40_000).fill(257 * 70),
    };
    const { data, info } = await pixels(wide, taken('straight', 'srgb'), 40);
    expect([info.width, info.height, data[0]]).toEqual([40, 10, 70]);
  });
});

test.each([
  ['as stored', [1, 0, 0, 1], 0, undefined],
  ['a quarter clockwise', [0, 1, -1, 0], 90, undefined],
  ['half', [-1, 0, 0, -1], 180, undefined],
  ['flipped across', [-1, 0, 0, 1], 0, 2],
  ['flipped down, which is half a turn and a flip across', [1, 0, 0, -1], 180, 2],
] as const)('a picture that asks to be shown %s', (_words, [a, b, c, d], turn, mirror) => {
  const matrix = Buffer.alloc(36);
  [a, b, 0, c, d, 0, 0, 0].forEach((value, at) => matrix.writeInt32LE(value * 65_536, at * 4));
  const codecpar = { getCodedSideData: () => matrix };
  expect(turnOf(matrix)).toBe(turn);
  expect(mirrorOf({ codecpar } as never)).toBe(mirror);
});
