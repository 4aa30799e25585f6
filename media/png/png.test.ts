import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { crc32, deflateSync } from 'node:zlib';
import fc from 'fast-check';
import sharp from 'sharp';
import { ClipReader, readStill, usualSettings, writeStill } from '@shale/media';
import type { Image } from '@shale/core';
import { pngAddon } from './addon.ts';

// What is written here is read by libvips and by libav, what these or a writer below write is read here.

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-png-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const sizes = fc.record({
  width: fc.integer({ min: 1, max: 70 }),
  height: fc.integer({ min: 1, max: 20 }),
  channels: fc.constantFrom(1, 2, 3, 4),
  bits: fc.constantFrom(8, 16),
  kind: fc.constantFrom('noise', 'slope', 'flat'),
  seed: fc.integer({ min: 1, max: 1_000_000 }),
});
type Size = typeof sizes extends fc.Arbitrary<infer T> ? T : never;

function pictureOf({ width, height, channels, bits, kind, seed }: Size): Image {
  let state = seed;
  const next = () => (state = (state * 1_103_515_245 + 12_345) & 0x7fffffff) >> 8;
  const most = 2 ** bits - 1;
  const code = (at: number): number =>
    kind === 'noise' ? next() & most : kind === 'flat' ? seed & most : (at * 37 + (next() & 3)) & most;
  const count = width * height * channels;
  return {
    ...{ width, height, channels: channels },
    ...(bits === 8
      ? { sample: 'u8', data: Uint8Array.from({ length: count }, (_, at) => code(at)) }
      : { sample: 'u16', data: Uint16Array.from({ length: count }, (_, at) => code(at)) }),
  };
}

const bytesOf = ({ data }: Image): Buffer => Buffer.from(data.buffer, data.byteOffset, data.byteLength);

/** A file by the standard's own words: rows behind chosen filters (9.2), in chunks of chosen lengths. */
function fileOf(image: Image, filterOf: (row: number) => number, pieces = 1): Buffer {
  const { width, height, channels, sample } = image;
  const each = sample === 'u16' ? 2 : 1;
  const pixel = channels * each;
  const row = width * pixel;
  const raw = Buffer.from(bytesOf(image));
  if (each === 2) raw.swap16();
  const filtered = Buffer.alloc((row + 1) * height);
  for (let y = 0; y < height; y += 1) {
    const filter = filterOf(y);
    filtered[y * (row + 1)] = filter;
    for (let x = 0; x < row; x += 1) {
      const a = x >= pixel ? raw[y * row + x - pixel]! : 0;
      const b = y > 0 ? raw[(y - 1) * row + x]! : 0;
      const c = x >= pixel && y > 0 ? raw[(y - 1) * row + x - pixel]! : 0;
      const p = a + b - c;
      const [pa, pb, pc] = [Math.abs(p - a), Math.abs(p - b), Math.abs(p - c)];
      const paeth = pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
      const expected = [0, a, b, Math.floor((a + b) / 2), paeth][filter] ?? 0;
      filtered[y * (row + 1) + 1 + x] = (raw[y * row + x]! - expected) & 255;
    }
  }
  const data = deflateSync(filtered);
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head[8] = each * 8;
  head[9] = [0, 4, 2, 6][channels - 1]!;
  const step = Math.max(1, Math.ceil(data.length / pieces));
  const parts = Array.from({ length: Math.ceil(data.length / step) }, (_, at) =>
    data.subarray(at * step, (at + 1) * step),
  );
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', head),
    ...parts.map((part) => chunk('IDAT', part)),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}

function chunk(type: string, data: Buffer): Buffer {
  const named = Buffer.concat([Buffer.from(type, 'latin1'), data]);
  const around = Buffer.alloc(8);
  around.writeUInt32BE(data.length, 0);
  around.writeUInt32BE(crc32(named), 4);
  return Buffer.concat([around.subarray(0, 4), named, around.subarray(4)]);
}

async function decoded(file: Buffer, { width, height, channels, sample }: Image): Promise<Buffer> {
  const size = width * height * channels * (sample === 'u16' ? 2 : 1);
  const out = new Uint8Array(size + height);
  await pngAddon.decode(file, out);
  return Buffer.from(out.subarray(0, size));
}

test('every filter, layout, depth and division into chunks is read sample for sample', () =>
  fc.assert(
    fc.asyncProperty(
      sizes,
      fc.integer({ min: 0, max: 5 }),
      fc.integer({ min: 1, max: 9 }),
      async (size, filter, pieces) => {
        const image = pictureOf(size);
        const file = fileOf(image, (row) => (filter < 5 ? filter : (row * 3 + size.seed) % 5), pieces);
        expect((await decoded(file, image)).equals(bytesOf(image))).toBe(true);
      },
    ),
    { numRuns: 300 },
  ));

test('what is written is read by two other libraries, and by ourselves, sample for sample, at every effort', async () => {
  let at = 0;
  await fc.assert(
    fc.asyncProperty(sizes, fc.integer({ min: 1, max: 9 }), async (size, effort) => {
      const image = pictureOf(size);
      const path = join(folder, `w${(at += 1)}.png`);
      await writeStill(path, 'png', image, { ...usualSettings, effort });
      const ours = await readStill(path);
      expect(bytesOf(ours).equals(bytesOf(image))).toBe(true);
      const { width, height, channels } = size;
      const clip = await ClipReader.open(path, { threads: 1 });
      const theirs = await clip.picture(0);
      await clip.close();
      expect([theirs.width, theirs.height]).toEqual([width, height]);
      if (theirs.channels === channels) expect(bytesOf(theirs).equals(bytesOf(image))).toBe(true);
      const grey = channels < 3;
      const raw = await sharp(path)
        .toColourspace(size.bits === 16 ? (grey ? 'grey16' : 'rgb16') : grey ? 'b-w' : 'srgb')
        .raw({ depth: size.bits === 16 ? 'ushort' : 'uchar' })
        .toBuffer({ resolveWithObject: true });
      if (raw.info.channels === channels) expect(raw.data.equals(bytesOf(image))).toBe(true);
    }),
    { numRuns: 60 },
  );
});

test('files of another library, filtered by its own choice, are read as it reads them', async () => {
  for (const channels of [3, 4] as const) {
    const image = pictureOf({ width: 301, height: 97, channels, bits: 8, kind: 'slope', seed: 5 });
    const path = join(folder, `theirs${channels}.png`);
    await sharp(bytesOf(image), { raw: { width: 301, height: 97, channels } })
      .png({ adaptiveFiltering: true, compressionLevel: 9 })
      .toFile(path);
    expect((await decoded(await readFile(path), image)).equals(bytesOf(image))).toBe(true);
    await sharp(bytesOf(image), { raw: { width: 301, height: 97, channels } })
      .png({ progressive: true })
      .toFile(`${path}.i.png`);
    expect(bytesOf(await readStill(`${path}.i.png`)).equals(bytesOf(image))).toBe(true);
  }
});

test('one filter for all rows is taken where a sample shrinks more by it, and every sample stays', async () => {
  for (const bits of [8, 16] as const) {
    const image = pictureOf({ width: 640, height: 361, channels: 3, bits, kind: 'flat', seed: 4 });
    // Columns of noise that is the same in every row: against the row above nothing is left, against the pixel beside it all is.
    image.data.forEach(
      (_, at) => (image.data[at] = ((at % 1920) * 7919 * ((at % 1920) + 13)) % (bits === 8 ? 251 : 65_521)),
    );
    const sizeOf: number[] = [];
    for (let effort = 1; effort <= 9; effort += 1) {
      const path = join(folder, `columns${bits}.${effort}.png`);
      await writeStill(path, 'png', image, { ...usualSettings, effort });
      expect((await decoded(await readFile(path), image)).equals(bytesOf(image))).toBe(true);
      const { data } = await sharp(path)
        .toColourspace(bits === 16 ? 'rgb16' : 'srgb')
        .raw({ depth: bits === 16 ? 'ushort' : 'uchar' })
        .toBuffer({ resolveWithObject: true });
      expect(data.equals(bytesOf(image))).toBe(true);
      sizeOf.push((await readFile(path)).length);
    }
    expect(Math.max(...sizeOf)).toBeLessThan(bytesOf(image).length / 40);
    expect(sizeOf[8]).toBeLessThanOrEqual(sizeOf[0]!);
  }
});

test('filters make what is smooth smaller', async () => {
  const image = pictureOf({ width: 640, height: 360, channels: 3, bits: 8, kind: 'flat', seed: 3 });
  image.data.forEach((_, at) => (image.data[at] = (Math.floor(at / 3) % 640) / 4 + Math.floor(at / 1920) / 3));
  const path = join(folder, 'smooth.png');
  await writeStill(path, 'png', image, usualSettings);
  const unfiltered = fileOf(image, () => 0).length;
  expect((await readFile(path)).length).toBeLessThan(unfiltered * 0.67);
});

test('a file of which any byte is another is refused, or is the same picture', async () => {
  const image = pictureOf({ width: 17, height: 11, channels: 3, bits: 16, kind: 'slope', seed: 9 });
  const file = fileOf(image, (row) => row % 5, 3);
  for (let at = 8; at < file.length; at += 1) {
    const bent = Buffer.from(file);
    bent[at]! ^= 1 << (at % 8);
    // Behind IEND nothing is looked at, and IEND's own bytes are under its checksum.
    const came = await decoded(bent, image).catch((error: Error) => error);
    if (Buffer.isBuffer(came)) expect(came.equals(bytesOf(image))).toBe(true);
    else expect(came.message).not.toBe('');
  }
  for (let length = 0; length < file.length; length += 3)
    await expect(decoded(file.subarray(0, length), image)).rejects.toThrow();
});

test('bytes that are changed and sealed again never give more or less than a picture', () =>
  fc.assert(
    fc.asyncProperty(
      sizes,
      fc.array(fc.tuple(fc.nat(), fc.nat(255)), { minLength: 1, maxLength: 6 }),
      async (size, changes) => {
        const image = pictureOf(size);
        const file = fileOf(image, (row) => row % 5);
        const [from, end] = [41, file.length - 16];
        for (const [at, value] of changes) file[from + (at % (end - from))] = value;
        file.writeUInt32BE(crc32(file.subarray(37, end)), end);
        const came = await decoded(file, image).catch((error: Error) => error);
        // The checksum of what was pressed (Adler-32) tells what the chunk's does not.
        if (Buffer.isBuffer(came)) expect(came.equals(bytesOf(image))).toBe(true);
      },
    ),
    { numRuns: 300 },
  ));

test('a damaged file is named on the way through', async () => {
  const image = pictureOf({ width: 30, height: 30, channels: 3, bits: 8, kind: 'noise', seed: 4 });
  const file = fileOf(image, () => 4);
  file[70]! ^= 4;
  const path = join(folder, 'bent.png');
  await writeFile(path, file);
  await expect(readStill(path)).rejects.toMatchObject({
    code: 'damaged-file',
    fact: expect.stringContaining('bent.png'),
  });
});
