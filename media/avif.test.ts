import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { probeStill, readStill } from './formats/index.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-avif-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const [width, height] = [32, 16];
const ramp = Uint8Array.from({ length: width * height * 4 }, (_, at) =>
  at % 4 === 3 ? 255 - (at >> 5) : (at * 3) % 256,
);

test.each([8, 10, 12] as const)('AVIF of %i bits comes as samples of that depth', async (bitdepth) => {
  const path = join(folder, `a${bitdepth}.avif`);
  const raw = { raw: { width, height, channels: 4 as const } };
  await writeFile(
    path,
    await sharp(ramp, raw).avif({ lossless: true, chromaSubsampling: '4:4:4', bitdepth }).toBuffer(),
  );
  const sample = `u${bitdepth}`;
  expect(await probeStill(path)).toMatchObject({ width, height, sample, hasAlpha: true });
  const image = await readStill(path);
  expect([image.sample, image.channels]).toEqual([sample, 4]);
  const max = 2 ** bitdepth - 1;
  // Colour goes through another matrix and back: a code of 8 bits off at the most.
  const apart = ramp.map((code, at) => Math.abs(Math.round((image.data[at]! * 255) / max) - code));
  expect(Math.max(...apart)).toBeLessThanOrEqual(2);
  const brightest = Math.max(...image.data);
  expect(brightest).toBeGreaterThan(max * 0.97);
  expect(brightest).toBeLessThanOrEqual(max);
});
