import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { parseSpec, primariesSchema, transferSchema, unsaidColour, type Image, type Primaries } from '@shale/core';
import { probeStill, readStill, usualSettings, writeStill } from './formats/index.ts';
import { profileFacts, readProfile } from './formats/icc.ts';
import { makeProfile } from './formats/iccWrite.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-icc-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const image: Image = {
  width: 8,
  height: 4,
  channels: 3,
  sample: 'u8',
  data: Uint8Array.from({ length: 96 }, (_, at) => at * 2),
};
/** Those that a profile has a form for. */
const said = transferSchema.options.filter((one) => !['film-log', 'pq', 'hlg'].includes(one));

test.each(said.flatMap((transfer) => primariesSchema.options.map((primaries) => [transfer, primaries] as const)))(
  '%s with %s is said by PNG, JPEG and TIFF, and its samples stay as they are',
  async (transfer, primaries) => {
    for (const [format, ext] of [
      ['png', 'png'],
      ['jpeg', 'jpg'],
      ['tiff', 'tif'],
    ] as const) {
      const path = join(folder, `${transfer}-${primaries}.${ext}`);
      await writeStill(path, format, image, { ...usualSettings, transfer, primaries, quality: 100 });
      expect(await probeStill(path)).toMatchObject({ transfer, primaries });
      if (format !== 'jpeg') expect((await readStill(path)).data).toEqual(image.data);
    }
  },
);

test.each(['pq', 'hlg'] as const)(
  '%s is said by PNG alone, by its code points, beside primaries that have one',
  async (transfer) => {
    const told = async (format: 'png' | 'tiff', primaries: Primaries) => {
      const path = join(folder, `${transfer}-${primaries}.${format}`);
      await writeStill(path, format, image, { ...usualSettings, transfer, primaries });
      expect((await readStill(path)).data).toEqual(image.data);
      const write = parseSpec({ version: 1, write: { format, sample: 'u8', alpha: 'none', transfer } }).write;
      return [(await probeStill(path)).transfer, unsaidColour(write, primaries) === undefined];
    };
    for (const primaries of ['bt709', 'p3', 'bt2020'] as const)
      expect(await told('png', primaries)).toEqual([transfer, true]);
    expect(await told('png', 'acescg')).toEqual([undefined, false]);
    expect(await told('tiff', 'bt2020')).toEqual([undefined, false]);
  },
);

test('a profile of ours is one to another library: its conversion to sRGB is by our curve and matrix', async () => {
  const grey = makeProfile('linear', 'bt709', true)!;
  expect(profileFacts(readProfile(grey))).toEqual({ transfer: 'linear', primaries: undefined });
  const path = join(folder, 'p3.tif');
  const pixel: Image = { ...image, width: 1, height: 1, data: Uint8Array.of(200, 100, 50) };
  await writeStill(path, 'tiff', pixel, { ...usualSettings, primaries: 'p3', tiffCompression: 'none' });
  const [red, green, blue] = await sharp(path).toColourspace('srgb').raw().toBuffer();
  // By hand: light 0.5776 0.1274 0.0319, times 1.2249 -0.2247 0, -0.0420 1.0419 0, -0.0197 -0.0786 1.0979.
  expect([red, green, blue].map((value, at) => Math.abs(value! - [215, 93, 31][at]!) <= 2)).toEqual([true, true, true]);
});

test('profiles of another library are honoured: sRGB and P3; of one with tables the name alone is told', async () => {
  const raw = { raw: { width: 8, height: 4, channels: 3 as const } };
  for (const [name, primaries] of [
    ['srgb', 'bt709'],
    ['p3', 'p3'],
  ] as const) {
    for (const format of ['jpeg', 'tiff', 'webp', 'png'] as const) {
      const path = join(folder, `theirs-${name}.${format}`);
      await writeFile(path, await sharp(Buffer.from(image.data), raw).withIccProfile(name).toFormat(format).toBuffer());
      expect([format, await probeStill(path)]).toEqual([
        format,
        expect.objectContaining({ transfer: 'srgb', primaries }),
      ]);
    }
  }
  const path = join(folder, 'press.tif');
  await writeFile(
    path,
    await sharp(Buffer.from(image.data), raw).toColourspace('cmyk').withIccProfile('cmyk').tiff().toBuffer(),
  );
  expect((await probeStill(path)).transfer).toMatch(/^profile "/);
});

test('a damaged profile is told as one, and the picture is read all the same', async () => {
  expect(profileFacts(readProfile(Buffer.from('not a profile at all')))).toEqual({
    transfer: 'profile "without a name"',
    primaries: 'profile "without a name"',
  });
  const path = join(folder, 'broken.tif');
  await writeStill(path, 'tiff', image, { ...usualSettings, tiffCompression: 'none' });
  expect((await probeStill(path)).transfer).toBe('srgb');
});
