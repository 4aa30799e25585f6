import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { parseSpec, type Image } from '@shale/core';
import { isAnimationJson } from '../animationJson.ts';
import { probeStill, readStill } from '../formats/index.ts';
import { openMoving } from '../video/movingWriter.ts';
import type { VideoSettings } from '../video/videoWriter.ts';
import { openMade } from './animationReader.ts';
import { parseSheet } from './sheet.ts';

let folder: string;
let made = 0;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-sheet-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

interface Drawn {
  width: number;
  height: number;
  /** A box that is not clear, as shares of a thousand, and its code; none where the picture is wholly clear. */
  boxes: { x: number; y: number; code: number }[];
}

const pictures = ({ width, height, boxes }: Drawn): Image[] =>
  boxes.map(({ x, y, code }) => {
    const data = new Uint8Array(width * height * 4);
    const [left, top] = [Math.floor((x * width) / 1000), Math.floor((y * height) / 1000)];
    if (code > 0)
      for (let row = top; row < height; row += 2)
        for (let at = left; at < width; at += 1) data.fill(code, (row * width + at) * 4, (row * width + at) * 4 + 4);
    return { width, height, channels: 4, sample: 'u8', data };
  });

async function sheetOf(
  all: readonly Image[],
  video: object,
): Promise<{ path: string; beside: string; settings: VideoSettings }> {
  const { width, height } = all[0]!;
  const spec = parseSpec({
    version: 1,
    write: { format: 'sheet', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
    video,
  });
  const settings: VideoSettings = {
    ...{ format: 'sheet', video: spec.video, width, height, sample: 'u8', hasAlpha: true },
    ...{ rate: { num: 24_000, den: 1001 }, transfer: 'srgb', primaries: 'bt709', pixelAspect: { num: 1, den: 1 } },
  };
  made += 1;
  const path = join(folder, `${made}.${spec.video.container}`);
  const writer = await openMoving(path, settings);
  for (const one of all) await writer.add(one);
  await writer.finish();
  await writer.close();
  return { path, beside: writer.beside!, settings };
}

test('whatever is drawn comes back: no box lies on another, none beyond the sheet, the same once', async () => {
  const drawn = fc.record({
    width: fc.integer({ min: 1, max: 40 }),
    height: fc.integer({ min: 1, max: 40 }),
    boxes: fc.array(
      fc.record({
        x: fc.integer({ min: 0, max: 999 }),
        y: fc.integer({ min: 0, max: 999 }),
        code: fc.constantFrom(0, 7, 255),
      }),
      { minLength: 1, maxLength: 12 },
    ),
  });
  const how = fc.record({
    sheetGap: fc.integer({ min: 0, max: 5 }),
    sheetTrim: fc.boolean(),
    container: fc.constantFrom('png', 'webp'),
  });
  await fc.assert(
    fc.asyncProperty(drawn, how, async (one, video) => {
      const all = pictures(one);
      const { path, beside, settings } = await sheetOf(all, video);
      const sheet = parseSheet(beside);
      const reader = await openMade(path, { ...settings, beside }, all.length);
      expect(reader.count).toBe(all.length);
      for (const [at, image] of all.entries()) expect((await reader.picture(at)).data).toEqual(image.data);
      const boxes = [...new Set(sheet.frames.map(({ x, y, width, height }) => [x, y, width, height].join()))].map(
        (text) => text.split(',').map(Number) as [number, number, number, number],
      );
      for (const [at, [x, y, width, height]] of boxes.entries())
        for (const [left, top, across, down] of boxes.slice(at + 1))
          expect(x + width <= left || left + across <= x || y + height <= top || top + down <= y).toBe(true);
      if (!video.sheetTrim)
        expect(sheet.frames.every((box) => box.width === one.width && box.height === one.height)).toBe(true);
    }),
    { numRuns: 40 },
  );
});

test('a sheet that lies is told, and a JSON that is none is none', async () => {
  const { beside } = await sheetOf(pictures({ width: 8, height: 8, boxes: [{ x: 0, y: 0, code: 9 }] }), {
    container: 'png',
  });
  const told = JSON.parse(beside) as { frames: { x: number }[] };
  told.frames[0]!.x = 7;
  expect(() => parseSheet(JSON.stringify(told))).toThrow('the box of frame 0 is not on its picture');
  const path = join(folder, 'other.json');
  await writeFile(path, '{"kind": "something else", "w": 3}');
  expect(isAnimationJson(path)).toBe(false);
  expect(isAnimationJson(join(folder, 'gone.json'))).toBe(false);
});

test('a sheet whose picture is gone, or of another size, cannot be read', async () => {
  const all = pictures({
    width: 9,
    height: 5,
    boxes: [
      { x: 0, y: 0, code: 9 },
      { x: 500, y: 0, code: 7 },
    ],
  });
  const { path, beside } = await sheetOf(all, { container: 'png' });
  const json = path.replace('.png', '.json');
  await writeFile(json, beside);
  expect(await probeStill(json)).toMatchObject({
    format: 'sheet',
    width: 9,
    height: 5,
    pictures: 2,
    hasAlpha: true,
    rate: { num: 24_000, den: 1001 },
  });
  expect((await readStill(json, { picture: 1 })).data).toEqual(all[1]!.data);
  const other = await sheetOf(pictures({ width: 30, height: 30, boxes: [{ x: 0, y: 0, code: 9 }] }), {
    container: 'png',
  });
  await rm(path);
  await writeFile(json, `${beside} `);
  await expect(probeStill(json)).rejects.toThrow(/cannot be read/);
  await writeFile(other.path.replace('.png', '.json'), beside);
  await expect(probeStill(other.path.replace('.png', '.json'))).rejects.toThrow(/its JSON says/);
});

test('a Lottie animation that draws what it shows is told as such', async () => {
  const path = join(folder, 'drawn.json');
  const shape = { ty: 4, ip: 0, op: 10, st: 0, ks: {}, shapes: [] };
  await writeFile(
    path,
    JSON.stringify({ v: '5.7.0', fr: 24, ip: 0, op: 10, w: 20, h: 20, assets: [], layers: [shape] }),
  );
  expect(isAnimationJson(path)).toBe(true);
  await expect(probeStill(path)).rejects.toThrow(/it draws shapes/);
});
