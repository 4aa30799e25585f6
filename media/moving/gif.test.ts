import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import sharp from 'sharp';
import { makeIndexer, videoSchema, type Image, type VideoSpec } from '@shale/core';
import { probeStill } from '../index.ts';
import { cutAlpha, GifWriter } from './gifWriter.ts';
import { gifData, gifEnd, gifHead, gifPicture } from './gifFile.ts';
import { choosePalette, Colours } from './palette.ts';

// What is written here is read by libvips, whose decoder of GIF shares nothing with this writer.

let folder: string;
let made = 0;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-gif-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const size = { width: 13, height: 9 };
const image = (data: Uint8Array, channels: 3 | 4 = 4, { width, height } = size): Image => ({
  width,
  height,
  channels,
  sample: 'u8',
  data,
});

async function written(images: readonly Image[], video: Partial<VideoSpec> = {}, rate = { num: 25, den: 1 }) {
  const path = join(folder, `${(made += 1)}.gif`);
  const [{ width, height, channels }] = images as [Image];
  const writer = await GifWriter.open(path, {
    format: 'gif',
    video: { ...videoSchema.parse({}), dither: 'none', ...video },
    ...{ width, height, rate, sample: 'u8', hasAlpha: channels === 4 },
    ...{ transfer: 'srgb', primaries: 'bt709', pixelAspect: { num: 1, den: 1 } },
  });
  try {
    for (const one of images) await writer.add(one);
    await writer.finish();
  } finally {
    await writer.close();
  }
  return path;
}

/** All pictures as they are shown, RGBA, clear pixels without colour. */
async function shown(path: string): Promise<Uint8Array[]> {
  const { pages = 1 } = await sharp(path, { pages: -1 }).metadata();
  const data = await sharp(path, { pages: -1 }).ensureAlpha().raw().toBuffer();
  const each = data.length / pages;
  return Array.from({ length: pages }, (_, at) => {
    const one = Uint8Array.from(data.subarray(at * each, (at + 1) * each));
    for (let pixel = 0; pixel < one.length; pixel += 4) if (one[pixel + 3] === 0) one.fill(0, pixel, pixel + 4);
    return one;
  });
}

test('as many colours as the palette holds are kept, however many pixels there are', async () => {
  const [width, height] = [311, 257];
  const wide = (frame: number): Image => {
    const data = new Uint8Array(width * height * 4).fill(255);
    for (let at = 0; at < width * height; at += 1) {
      const code = (at * 31 + frame * 97 + (at >> 7)) % 250;
      data.set([code, 255 - code, (code * 7) & 255], at * 4);
    }
    return { width, height, channels: 4, sample: 'u8', data };
  };
  const images = [0, 1, 2].map(wide);
  for (const dither of ['ordered', 'floyd-steinberg'] as const) {
    const pictures = await shown(await written(images, { dither, ditherAmount: 100 }));
    images.forEach(({ data }, at) => expect(Buffer.compare(pictures[at]!, data as Uint8Array)).toBe(0));
  }
});

test.each([2, 3, 5, 8])('indices of %d bits come back through another decoder, however they repeat', async (bits) => {
  const [width, height] = [97, 211];
  const palette = Uint8Array.from({ length: 3 << bits }, (_, at) => (Math.floor(at / 3) * 37 + (at % 3) * 11) & 255);
  let state = 7;
  const next = () => (state = (state * 1_103_515_245 + 12_345) & 0x7fffffff);
  for (const kind of ['noise', 'runs', 'one']) {
    const indices = new Uint8Array(width * height);
    for (let at = 0; at < indices.length; at += 1)
      indices[at] =
        kind === 'noise' ? (next() >> 8) % (1 << bits) : kind === 'runs' ? Math.floor(at / 50) % (1 << bits) : 1;
    const path = join(folder, `lzw-${bits}-${kind}.gif`);
    const box = { left: 0, top: 0, width, height };
    const picture = gifPicture({ ...box, indices, delay: 4, clears: false }, bits);
    await writeFile(path, Buffer.concat([gifHead(width, height, palette, 1), picture, gifEnd]));
    const [came] = await shown(path);
    for (let at = 0; at < indices.length; at += 97)
      expect([...came!.subarray(at * 4, at * 4 + 3)]).toEqual([
        ...palette.subarray(indices[at]! * 3, indices[at]! * 3 + 3),
      ]);
  }
});

test('data end with the code and the block that say so', () => {
  // Least size 2; one block: clear (4), 1, end (5) in three bits each, low bit first.
  expect([...gifData(Uint8Array.of(1), 2)]).toEqual([2, 2, 0b01_001_100, 0b1, 0]);
});

test('pictures of few colours come back exactly: what moves, clears and comes again', async () => {
  const colour = fc.constantFrom([0, 0, 0, 0], [255, 0, 0, 255], [0, 255, 0, 255], [9, 9, 200, 255], [0, 0, 0, 255]);
  const picture = fc.array(colour, { minLength: 13 * 9, maxLength: 13 * 9 });
  await fc.assert(
    fc.asyncProperty(
      fc.array(picture, { minLength: 1, maxLength: 5 }),
      fc.constantFrom('shared' as const, 'each' as const),
      fc.constantFrom('perceptual' as const, 'k-means' as const, 'median-cut' as const),
      async (pictures, palette, quantiser) => {
        const images = pictures.map((pixels) => image(Uint8Array.from(pixels.flat())));
        const came = await shown(await written(images, { palette, quantiser }));
        expect(came.map((one) => [...one])).toEqual(images.map(({ data }) => [...data]));
      },
    ),
    { numRuns: 60 },
  );
});

test('all clear, then something, then all clear again; hardly more colours than a palette has', async () => {
  const blank = image(new Uint8Array(13 * 9 * 4));
  const full = image(Uint8Array.from({ length: 13 * 9 * 4 }, (_, at) => (at % 4 === 3 ? 255 : (at * 37) & 255)));
  for (const palette of ['shared', 'each'] as const)
    for (const quantiser of ['perceptual', 'k-means', 'median-cut'] as const) {
      const came = await shown(await written([blank, full, blank], { palette, quantiser }));
      expect(came.map((one) => one.some((value) => value !== 0))).toEqual([false, true, false]);
      const noise = Uint8Array.from({ length: 16 * 17 * 3 }, (_, at) => (at * 7919 + (at >> 3) * 31) & 255);
      const [one] = await shown(await written([image(noise, 3, { width: 16, height: 17 })], { palette, quantiser }));
      expect(one!.length).toBe(16 * 17 * 4);
    }
});

test('what stays is not stored again: a box of what changed, nothing of what did not', async () => {
  const [width, height] = [64, 48];
  const noise = Uint8Array.from({ length: width * height * 3 }, (_, at) => (at * 7919) % 251);
  const still = image(noise, 3, { width, height });
  const moved = image(noise.slice(), 3, { width, height });
  for (let at = 0; at < 30; at += 1) moved.data[(20 * width + 10) * 3 + at] = 0;
  const bytes = async (images: Image[]) => (await readFile(await written(images))).length;
  const one = await bytes([still]);
  expect((await bytes([still, still])) - one).toBeLessThan(40);
  expect((await bytes([still, moved])) - one).toBeLessThan(120);
  const back = await shown(await written([still, moved, still]));
  expect(back.length).toBe(3);
});

test('a tolerance leaves out small changes and never lets them add up', async () => {
  const [width, height] = [16, 16];
  const flat = (value: number) => image(new Uint8Array(width * height * 3).fill(value), 3, { width, height });
  const values = [100, 102, 104, 106, 108, 110];
  const came = await shown(await written(values.map(flat), { tolerance: 3 }));
  came.forEach((one, at) => expect(Math.abs(one[0]! - values[at]!)).toBeLessThanOrEqual(3));
  expect(new Set(came.map((one) => one[0])).size).toBeLessThan(values.length);
});

test('delays, plays and pictures are told; a rate is known again', async () => {
  const images = Array.from({ length: 12 }, (_, at) => image(new Uint8Array(13 * 9 * 3).fill(at * 20), 3));
  const rate = { num: 24, den: 1 };
  for (const [plays, loops] of [
    [null, 0],
    [1, 1],
    [3, 3],
  ] as const) {
    const path = await written(images, { plays }, rate);
    const { loop = 1, delay, pages } = await sharp(path, { pages: -1 }).metadata();
    expect([loop, pages]).toEqual([loops, 12]);
    // Beginnings at 0, 4, 8, 13, 17, 21, 25 hundredths, and the same half a second on.
    expect(delay).toEqual([40, 40, 50, 40, 40, 40, 40, 40, 50, 40, 40, 40]);
    expect(await probeStill(path)).toMatchObject({ pictures: 12, rate });
  }
});

test('half-clear pixels: cut, blended onto a colour, or a pattern that is as dense as they are', () => {
  const data = Uint8Array.from([200, 100, 0, 127, 200, 100, 0, 128, 200, 100, 0, 255, 9, 9, 9, 0]);
  const one = image(data, 4, { width: 4, height: 1 });
  const cut = { alphaEdge: 'threshold' as const, alphaFrom: 128, edgeColour: null };
  expect([...cutAlpha(one, cut)]).toEqual([0, 0, 0, 0, 200, 100, 0, 255, 200, 100, 0, 255, 0, 0, 0, 0]);
  // 200 x 128/255 + 255 x 127/255 and so on.
  // An outline is what is opaque beside it: blue here, whatever the half-clear pixel is.
  const beside: Image = {
    ...{ width: 2, height: 1, channels: 4, sample: 'u8' },
    data: Uint8Array.from([0, 0, 200, 255, 100, 0, 0, 153]),
  };
  expect([...cutAlpha(beside, { ...cut, edgeColour: 'outline' })]).toEqual([0, 0, 200, 255, 60, 0, 80, 255]);
  expect([...cutAlpha(one, { ...cut, edgeColour: '#ffffff' }).subarray(4, 8)]).toEqual([227, 177, 127, 255]);
  const soft = image(new Uint8Array(64 * 64 * 4).fill(64), 4, { width: 64, height: 64 });
  const pattern = cutAlpha(soft, { ...cut, alphaEdge: 'dithered' });
  const share = pattern.filter((value, at) => at % 4 === 3 && value === 255).length / 4096;
  expect(share).toBeCloseTo(64 / 255, 2);
});

test.each(['perceptual', 'k-means', 'median-cut'] as const)(
  '%s: no more colours than asked for, and near ones',
  async (quantiser) => {
    const rgba = new Uint8Array(128 * 128 * 4);
    for (let at = 0; at < rgba.length; at += 4)
      rgba.set([(at / 4) % 128, Math.floor(at / 512), ((at / 4) % 128) / 2 + 60, 255], at);
    for (const most of [1, 7, 63, 255]) {
      const colours = new Colours();
      colours.add(rgba);
      const palette = await choosePalette(colours, most, quantiser);
      expect(palette.length / 3).toBeLessThanOrEqual(most);
      const indices = makeIndexer({ palette, clear: undefined, dither: 'none', amount: 1 })(rgba, 128);
      let sum = 0;
      indices.forEach((index, at) => {
        for (let channel = 0; channel < 3; channel += 1)
          sum += (palette[index * 3 + channel]! - rgba[at * 4 + channel]!) ** 2;
      });
      // A grid of so many colours over this square of 128 by 128 codes would be about so far off.
      expect(Math.sqrt(sum / indices.length)).toBeLessThan(160 / Math.sqrt(most));
    }
  },
);

test('nothing is left beside the file', async () => {
  expect((await readdir(folder)).filter((name) => name.endsWith('.wait'))).toEqual([]);
});
