import { mkdtemp, readFile, rm, stat, truncate, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { crc32, deflateSync } from 'node:zlib';
import fc from 'fast-check';
import sharp from 'sharp';
import {
  compareImages,
  exrCompressionSchema,
  formatRules,
  pictureFormats,
  makeSamples,
  numberToHalf,
  type Image,
  type SampleFormat,
} from '@shale/core';
import { fitLayout, probeStill, readStill, usualSettings, writeStill, type WriteSettings } from './index.ts';
import { exrAddon } from '../exr/addon.ts';
import { writeExr } from './exr.ts';

const settings: WriteSettings = { ...usualSettings, effort: 3, quality: 95, tiffCompression: 'deflate' };
let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-formats-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** Ramps, edges and noise over the whole range of a sample format; odd sizes, so that rows never fit a stride. */
function known(sample: SampleFormat, channels: Image['channels'], width = 131, height = 67): Image {
  const data = makeSamples(sample, width * height * channels);
  let state = 12345;
  for (let at = 0; at < data.length; at += 1) {
    state = (Math.imul(state, 1103515245) + 12345) >>> 0;
    const pixel = Math.floor(at / channels);
    const ramp = (pixel % width) / (width - 1);
    const value =
      pixel < (width * height) / 3 ? ramp : pixel < (width * height) / 2 ? (pixel >> 4) & 1 : state / 4_294_967_296;
    if (sample === 'u8') data[at] = Math.round(value * 255);
    else if (sample === 'u10') data[at] = Math.round(value * 1023);
    else if (sample === 'u12') data[at] = Math.round(value * 4095);
    else if (sample === 'u16') data[at] = Math.round(value * 65_535);
    else if (sample === 'f16') data[at] = numberToHalf(value * 8 - 1);
    else data[at] = Math.fround(value * 1e6 - 1);
  }
  return { width, height, channels, sample, data };
}

const lossless = pictureFormats
  .map((format) => [format, formatRules[format]] as const)
  .filter(([, rules]) => rules.lossless)
  .flatMap(([format, rules]) =>
    rules.samples.flatMap((sample) => ([1, 2, 3, 4] as const).map((channels) => [format, sample, channels] as const)),
  )
  .filter(([format, , channels]) => formatRules[format].alpha || channels % 2 === 1);

test.each(lossless)('%s %s with %i channels comes back bit for bit', async (format, sample, channels) => {
  const path = join(folder, `${format}-${sample}-${channels}.${formatRules[format].ext}`);
  // A format without a layout for grey holds it as colour.
  const image = fitLayout(known(sample, channels), format);
  await writeStill(path, format, known(sample, channels), settings);
  expect(await probeStill(path)).toMatchObject({
    width: 131,
    height: 67,
    format,
    sample,
    hasAlpha: channels === 2 || channels === 4,
  });
  expect(compareImages(await readStill(path), image)).toEqual({ samples: 0, most: 0 });
});

test.each(['none', 'lzw', 'deflate'] as const)('TIFF with %s compression is lossless', async (tiffCompression) => {
  const path = join(folder, `t-${tiffCompression}.tif`);
  await writeStill(path, 'tiff', known('u16', 4), { ...settings, tiffCompression });
  expect(compareImages(await readStill(path), known('u16', 4))).toEqual({ samples: 0, most: 0 });
});

test.each(exrCompressionSchema.options)('OpenEXR %s', async (compression) => {
  const path = join(folder, `e-${compression}.exr`);
  const lossy = /^(B44|B44A|DWAA|DWAB)$/.test(compression);
  // Lossy ones are held to a smooth picture: what they do to noise is their business.
  const smooth = Uint16Array.from({ length: 200 * 120 * 4 }, (_, at) =>
    numberToHalf(((at >> 2) % 200) / 200 + (at & 3) / 8),
  );
  const image: Image = lossy
    ? { width: 200, height: 120, channels: 4, sample: 'f16', data: smooth }
    : known('f16', 4, 200, 120);
  await writeExr(path, image, {
    compression,
    attributes: [{ name: 'framesPerSecond', type: 'rational', value: [24_000, 1001] }],
  });
  expect(await probeStill(path)).toMatchObject({
    compression,
    rate: { num: 24_000, den: 1001 },
    sample: 'f16',
    channels: ['R', 'G', 'B', 'A'],
  });
  const difference = compareImages(await readStill(path), image)!;
  if (lossy) expect(difference.most).toBeLessThan(0.02);
  else expect(difference.samples).toBe(0);
});

test.each([
  ['png', 'u16', {}],
  ['tiff', 'u16', { tiffCompression: 'deflate' }],
  ['exr', 'f16', { exrCompression: 'ZIP' }],
  ['exr', 'f16', { exrCompression: 'ZIPS' }],
] as const)('%s %s: more effort makes smaller files of the same samples', async (format, sample, more) => {
  const bytes: number[] = [];
  const image = known(sample, 3, 300, 200);
  for (const effort of [1, 9]) {
    const path = join(folder, `effort-${effort}-${Object.values(more).join('')}.${formatRules[format].ext}`);
    await writeStill(path, format, image, { ...settings, ...more, effort });
    expect(compareImages(await readStill(path), image)).toEqual({ samples: 0, most: 0 });
    bytes.push((await stat(path)).size);
  }
  expect(bytes[1]).toBeLessThan(bytes[0]!);
});

test('grey with alpha becomes colour with alpha in TGA', async () => {
  const path = join(folder, 'grey.tga');
  const image = known('u8', 2);
  await writeStill(path, 'tga', image, settings);
  const back = await readStill(path);
  expect(back.channels).toBe(4);
  expect([...back.data.slice(0, 4)]).toEqual([image.data[0], image.data[0], image.data[0], image.data[1]]);
});

test('JPEG keeps what it can, and says its size', async () => {
  const path = join(folder, 'j.jpg');
  const data = Uint8Array.from({ length: 64 * 64 * 3 }, (_, at) => 2 * Math.floor((at / 3) % 64) + 40);
  const image: Image = { width: 64, height: 64, channels: 3, sample: 'u8', data };
  await writeStill(path, 'jpeg', image, settings);
  expect(compareImages(await readStill(path), image)!.most).toBeLessThan(4);
});

test('another library reads what is written, and what it writes is read', async () => {
  const image = known('u16', 4);
  await writeStill(join(folder, 'ours.png'), 'png', image, settings);
  const theirs = await sharp(join(folder, 'ours.png')).toColourspace('rgb16').raw({ depth: 'ushort' }).toBuffer();
  expect(Buffer.compare(theirs, Buffer.from(image.data.buffer))).toBe(0);
  const palette = join(folder, 'palette.png');
  await sharp(Buffer.from(known('u8', 4, 32, 32).data.buffer), { raw: { width: 32, height: 32, channels: 4 } })
    .png({ palette: true, colours: 16 })
    .toFile(palette);
  const read = await readStill(palette);
  const independent = await sharp(palette).ensureAlpha().raw().toBuffer();
  expect(read.channels).toBe(4);
  expect(Buffer.from(read.data.buffer, read.data.byteOffset, read.data.byteLength).equals(independent)).toBe(true);
});

test('PNG says its transfer', async () => {
  const image = known('u8', 3, 8, 8);
  for (const transfer of ['srgb', 'linear'] as const) {
    const path = join(folder, `tag-${transfer}.png`);
    await writeStill(path, 'png', image, { ...settings, transfer });
    expect((await probeStill(path)).transfer).toBe(transfer);
  }
});

/** A PNG made by hand: what no library of ours writes. */
function bare(
  depth: number,
  colour: number,
  row: number[],
  { palette, clear }: { palette?: number[]; clear?: number[] },
) {
  const chunk = (type: string, data: Buffer) => {
    const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
    const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
    length.writeUInt32BE(data.length);
    sum.writeUInt32BE(crc32(body));
    return Buffer.concat([length, body, sum]);
  };
  const head = Buffer.from([0, 0, 0, 4, 0, 0, 0, 1, depth, colour, 0, 0, 0]);
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]),
    chunk('IHDR', head),
    ...(palette ? [chunk('PLTE', Buffer.from(palette))] : []),
    ...(clear ? [chunk('tRNS', Buffer.from(clear))] : []),
    chunk('IDAT', deflateSync(Buffer.from([0, ...row]))),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}

test.each([
  // PNG, third edition, 11.3.1: one colour named clear, or an alpha for each of the palette.
  ['grey, one clear', bare(8, 0, [5, 6, 7, 8], { clear: [0, 5] }), 'YA', [5, 0, 6, 255, 7, 255, 8, 255]],
  [
    'grey of 16 bits, one clear',
    bare(16, 0, [1, 5, 0, 6, 0, 7, 0, 8], { clear: [1, 5] }),
    'YA',
    [261, 0, 6, 65_535, 7, 65_535, 8, 65_535],
  ],
  ['grey of 4 bits', bare(4, 0, [0x56, 0x78], {}), 'Y', [85, 102, 119, 136]],
  ['grey of 1 bit', bare(1, 0, [0xa0], {}), 'Y', [255, 0, 255, 0]],
  ['a palette', bare(8, 3, [0, 1, 1, 0], { palette: [1, 2, 3, 4, 5, 6] }), 'RGB', [1, 2, 3, 4, 5, 6, 4, 5, 6, 1, 2, 3]],
  [
    'a palette of 2 bits with alpha',
    bare(2, 3, [0b00011000], { palette: [1, 2, 3, 4, 5, 6, 7, 8, 9], clear: [0, 128] }),
    'RGBA',
    [1, 2, 3, 0, 4, 5, 6, 128, 7, 8, 9, 255, 1, 2, 3, 0],
  ],
  [
    'colour, one clear',
    bare(8, 2, [1, 2, 3, 4, 5, 6, 1, 2, 3, 9, 9, 9], { clear: [0, 1, 0, 2, 0, 3] }),
    'RGBA',
    [1, 2, 3, 0, 4, 5, 6, 255, 1, 2, 3, 0, 9, 9, 9, 255],
  ],
] as const)('PNG: %s', async (name, bytes, channels, samples) => {
  const path = join(folder, `${name}.png`);
  await writeFile(path, bytes);
  expect((await probeStill(path)).channels.join('')).toBe(channels);
  expect([...(await readStill(path)).data]).toEqual([...samples]);
});

describe('damage is an error that names the file, never a picture', () => {
  const written = pictureFormats.flatMap((format) =>
    formatRules[format].samples.map((sample) => [format, sample] as const),
  );
  test.each(written)('%s %s cut short anywhere', async (format, sample) => {
    const path = join(folder, `cut-${format}-${sample}.${formatRules[format].ext}`);
    await writeStill(path, format, known(sample, 3), settings);
    const { size } = await stat(path);
    const original = await readFile(path);
    for (const share of [0.02, 0.3, 0.6, 0.9, 0.98]) {
      await writeFile(path, original);
      await truncate(path, Math.floor(size * share));
      await expect(readStill(path)).rejects.toMatchObject({
        name: 'ShaleError',
        code: expect.stringMatching(/^(truncated-file|damaged-file|unknown-format|empty-file)$/),
        fact: expect.stringContaining(`cut-${format}-${sample}`),
      });
    }
  });

  test('PNG with any flipped byte of its picture is refused', async () => {
    const path = join(folder, 'flip.png');
    await writeStill(path, 'png', known('u8', 4), settings);
    const original = await readFile(path);
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: original.indexOf('IDAT') + 4, max: original.length - 17 }),
        fc.integer({ min: 1, max: 255 }),
        async (at, change) => {
          const broken = Buffer.from(original);
          broken[at]! ^= change;
          await writeFile(path, broken);
          await expect(readStill(path)).rejects.toMatchObject({ code: 'damaged-file' });
        },
      ),
      { numRuns: 40 },
    );
  });

  test.each(written)('%s %s with random damage never ends the process', async (format, sample) => {
    const path = join(folder, `fuzz-${sample}.${formatRules[format].ext}`);
    await rm(path, { force: true });
    await writeStill(path, format, known(sample, 3, 40, 30), settings);
    const original = await readFile(path);
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.integer({ min: 0, max: original.length - 1 }), fc.integer({ min: 0, max: 255 })), {
          minLength: 1,
          maxLength: 6,
        }),
        async (changes) => {
          const broken = Buffer.from(original);
          for (const [at, value] of changes) broken[at] = value;
          await writeFile(path, broken);
          await readStill(path).catch((error: unknown) => expect(error).toMatchObject({ name: 'ShaleError' }));
        },
      ),
      { numRuns: 40 },
    );
  });

  test('a header that claims an absurd size is refused before memory is taken', async () => {
    const path = join(folder, 'huge.png');
    await writeStill(path, 'png', known('u8', 3, 8, 8), settings);
    const bytes = await readFile(path);
    bytes.writeUInt32BE(100_000, 16);
    await writeFile(path, bytes);
    await expect(readStill(path)).rejects.toMatchObject({ fact: expect.stringContaining('100000 x 8 pixels') });
  });

  test.each([
    ['nothing.png', undefined, 'file-gone'],
    ['empty.png', '', 'empty-file'],
    ['text.png', 'this is a note, not a picture', 'unknown-format'],
  ])('%s', async (name, contents, code) => {
    if (contents !== undefined) await writeFile(join(folder, name), contents);
    await expect(readStill(join(folder, name))).rejects.toMatchObject({ code, fact: expect.stringContaining(name) });
  });

  test('a wrong ending does not matter', async () => {
    const path = join(folder, 'really-a-png.jpg');
    await writeStill(path, 'png', known('u8', 3), settings);
    expect(await probeStill(path)).toMatchObject({ format: 'png' });
  });
});

test('the addon tells what a file holds and refuses what it does not', async () => {
  const path = join(folder, 'dwaa.exr');
  await writeExr(path, known('f16', 3, 64, 48), { compression: 'DWAA' });
  const [part] = await exrAddon.readHeader(path);
  expect(part).toMatchObject({
    complete: true,
    tiled: false,
    displayWindow: [0, 0, 63, 47],
    channels: [{ name: 'B' }, { name: 'G' }, { name: 'R' }],
  });
  await expect(exrAddon.readPixels(path, 0, ['Z'], false, false)).rejects.toThrow('no channel Z');
  await expect(exrAddon.readPixels(path, 3, ['R'], false, false)).rejects.toThrow('no part 3');
});
