import { spawnSync } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { deflateSync } from 'node:zlib';
import fc from 'fast-check';
import sharp from 'sharp';
import { makeSamples, type Image, type SampleFormat } from '@shale/core';
import { readStill, usualSettings, writeStill } from '@shale/media';
import { HeaderFile } from '../formats/headerFile.ts';
import { plainLayout } from '../formats/tiffHeader.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-tiff-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const bytesOf = ({ data }: Image): Buffer => Buffer.from(data.buffer, data.byteOffset, data.byteLength);

type Kind = 'u8' | 'u16' | 'f16' | 'f32';
const bytesIn: Record<Kind, 1 | 2 | 4> = { u8: 1, u16: 2, f16: 2, f32: 4 };

/** Slopes with some noise; floats without what is no number. */
function pictureOf(width: number, height: number, channels: number, sample: Kind, seed: number): Image {
  const data = makeSamples(sample, width * height * channels);
  let state = seed * 7 + 1;
  for (let at = 0; at < data.length; at += 1) {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    const noise = (state >>> 16) % 40;
    data[at] = sample === 'f32' ? at / 7 + noise : sample === 'f16' ? 0x3000 + noise + (at % 999) : at * 3 + noise;
  }
  return { width, height, channels: channels as Image['channels'], sample, data };
}

interface Lies {
  little: boolean;
  /** Sides of a tile, multiples of 16; else rows of a strip. */
  tile?: [number, number];
  rows: number;
  planes: boolean;
  deflated: boolean;
  predictor: 1 | 2 | 3;
  /** Channels behind those that are wanted. */
  beyond: number;
}

/** A file by the words of the specification, byte after byte, of a picture and channels beyond it. */
function fileOf(image: Image, { little, tile, rows, planes, deflated, predictor, beyond }: Lies): Buffer {
  const { width, height, channels, sample, data } = image;
  const each = bytesIn[sample as Kind];
  const stored = channels + beyond;
  const code = (x: number, y: number, channel: number): number => {
    if (channel >= channels || x >= width || y >= height) return (x * 5 + channel) & 255;
    const value = data[(y * width + x) * channels + channel]!;
    return sample === 'f32' ? new Uint32Array(Float32Array.of(value).buffer)[0]! : value;
  };
  const [pieceWidth, pieceHeight] = tile ?? [width, Math.min(rows, height)];
  const pieces: Buffer[] = [];
  for (const plane of planes ? Array.from({ length: stored }, (_, at) => [at]) : [[...Array(stored).keys()]])
    for (let top = 0; top < height; top += pieceHeight)
      for (let left = 0; left < width; left += pieceWidth) {
        const count = tile ? pieceHeight : Math.min(pieceHeight, height - top);
        const row = pieceWidth * plane.length;
        const made = Buffer.alloc(count * row * each);
        for (let y = 0; y < count; y += 1) {
          const codes = Array.from({ length: row }, (_, at) =>
            code(left + Math.floor(at / plane.length), top + y, plane[at % plane.length]!),
          );
          const line = Buffer.alloc(row * each);
          if (predictor === 3) {
            codes.forEach((one, at) => {
              for (let byte = 0; byte < each; byte += 1)
                line[byte * row + at] = (one >>> (8 * (each - 1 - byte))) & 255;
            });
            for (let at = line.length - 1; at >= plane.length; at -= 1)
              line[at] = (line[at]! - line[at - plane.length]!) & 255;
          } else
            codes.forEach((one, at) => {
              const before = predictor === 2 && at >= plane.length ? codes[at - plane.length]! : 0;
              const left = each === 4 ? (one - before) >>> 0 : (one - before) & (each === 2 ? 65_535 : 255);
              if (little) line.writeUIntLE(left, at * each, each);
              else line.writeUIntBE(left, at * each, each);
            });
          line.copy(made, y * row * each);
        }
        pieces.push(deflated ? deflateSync(made) : made);
      }
  let at = 8;
  const offsets = pieces.map(({ length }) => (at += length) - length);
  const many = (value: number) => Array<number>(stored).fill(value);
  const fields: [number, number, number[]][] = [
    [256, 4, [width]],
    [257, 4, [height]],
    [258, 3, many(each * 8)],
    [259, 3, [deflated ? 8 : 1]],
    [262, 3, [channels <= 2 ? 1 : 2]],
    ...(tile ? [] : ([[273, 4, offsets]] as [number, number, number[]][])),
    [277, 3, [stored]],
    ...(tile
      ? ([
          [284, 3, [planes ? 2 : 1]],
          [317, 3, [predictor]],
          [322, 4, [tile[0]]],
          [323, 4, [tile[1]]],
          [324, 4, offsets],
          [325, 4, pieces.map(({ length }) => length)],
        ] as [number, number, number[]][])
      : ([
          [278, 4, [rows]],
          [279, 4, pieces.map(({ length }) => length)],
          [284, 3, [planes ? 2 : 1]],
          [317, 3, [predictor]],
        ] as [number, number, number[]][])),
    ...(channels % 2 === 0 || beyond > 0
      ? ([[338, 3, [...(channels % 2 === 0 ? [2] : []), ...Array<number>(beyond).fill(0)]]] as [
          number,
          number,
          number[],
        ][])
      : []),
    [339, 3, many(sample === 'u8' || sample === 'u16' ? 1 : 3)],
  ];
  const put = (bytes: Buffer, value: number, place: number, size: number) =>
    little ? bytes.writeUIntLE(value, place, size) : bytes.writeUIntBE(value, place, size);
  const head = Buffer.from(little ? 'II*\0\0\0\0\0' : 'MM\0*\0\0\0\0', 'latin1');
  put(head, at, 4, 4);
  const list = Buffer.alloc(2 + fields.length * 12 + 4);
  put(list, fields.length, 0, 2);
  const behind: Buffer[] = [];
  let next = at + list.length;
  fields.forEach(([tag, type, values], index) => {
    const from = 2 + index * 12;
    const size = type === 3 ? 2 : 4;
    put(list, tag, from, 2);
    put(list, type, from + 2, 2);
    put(list, values.length, from + 4, 4);
    const bytes = Buffer.alloc(Math.max(4, values.length * size));
    values.forEach((value, place) => put(bytes, value, place * size, size));
    if (bytes.length <= 4) bytes.copy(list, from + 8);
    else {
      put(list, next, from + 8, 4);
      behind.push(bytes);
      next += bytes.length;
    }
  });
  return Buffer.concat([head, ...pieces, list, ...behind]);
}

/** Whether our own addon reads a file, and not another library. */
function isPlain(path: string, channels: number): boolean {
  const file = new HeaderFile(path);
  try {
    return plainLayout(file, channels) !== undefined;
  } finally {
    file.close();
  }
}

const kinds = fc.constantFrom<Kind>('u8', 'u16', 'f16', 'f32');

test('strips, tiles, planes, either order of bytes, every predictor: the samples come as they were', async () => {
  let at = 0;
  await fc.assert(
    fc.asyncProperty(
      fc.record({
        sample: kinds,
        width: fc.integer({ min: 1, max: 70 }),
        height: fc.integer({ min: 1, max: 40 }),
        channels: fc.integer({ min: 1, max: 4 }),
        seed: fc.nat(1000),
        little: fc.boolean(),
        tile: fc.constantFrom<[number, number] | undefined>(undefined, undefined, [16, 16], [32, 16]),
        rows: fc.integer({ min: 1, max: 50 }),
        planes: fc.boolean(),
        deflated: fc.boolean(),
        predicts: fc.constantFrom(1, 2, 3),
        beyond: fc.constantFrom(0, 0, 1, 2),
      }),
      async ({ sample, width, height, channels, seed, predicts, ...lies }) => {
        const isFloat = sample === 'f16' || sample === 'f32';
        const predictor = !lies.deflated || (predicts === 3 && !isFloat) ? 1 : predicts;
        // An alpha that is not said to be one is a channel beyond.
        const beyond = channels % 2 === 0 ? lies.beyond : 0;
        const image = pictureOf(width, height, channels, sample, seed);
        const path = join(folder, `lies${(at += 1)}.tif`);
        await writeFile(path, fileOf(image, { ...lies, predictor, beyond }));
        expect(isPlain(path, channels)).toBe(true);
        const read = await readStill(path);
        expect([read.sample, read.channels, read.width, read.height]).toEqual([sample, channels, width, height]);
        expect(bytesOf(read).equals(bytesOf(image))).toBe(true);
      },
    ),
    { numRuns: 250 },
  );
});

test('what libvips writes, in strips and tiles, by each compression and predictor, is read sample for sample', async () => {
  for (const bits of [8, 16] as const)
    for (const channels of [1, 3, 4] as const)
      for (const compression of ['none', 'lzw', 'deflate'] as const)
        for (const predictor of ['none', 'horizontal'] as const)
          for (const tile of [false, true]) {
            const image = pictureOf(301, 167, channels, bits === 8 ? 'u8' : 'u16', channels);
            const path = join(folder, `v-${bits}-${channels}-${compression}-${predictor}-${tile}.tif`);
            await sharp(image.data as Uint8Array, { raw: { width: 301, height: 167, channels } })
              .toColourspace(bits === 16 ? (channels === 1 ? 'grey16' : 'rgb16') : channels === 1 ? 'b-w' : 'srgb')
              .tiff({ compression, predictor, tile, tileWidth: 64, tileHeight: 32 })
              .toFile(path);
            expect(isPlain(path, channels)).toBe(true);
            expect(bytesOf(await readStill(path)).equals(bytesOf(image))).toBe(true);
          }
});

/** What OpenImageIO makes of each task. */
function other(tasks: object[]): void {
  const script = fileURLToPath(new URL('../testing/other.py', import.meta.url));
  const { status, stderr } = spawnSync('/usr/bin/python3', [script], {
    input: JSON.stringify(tasks),
    encoding: 'utf8',
  });
  if (status !== 0) throw new Error(stderr);
}

test('what OpenImageIO writes is read to its bits, floats and halves by their own predictor too; it reads ours', async () => {
  const tasks: object[] = [];
  const made: { path: string; image: Image; raw: string }[] = [];
  for (const sample of ['u8', 'u16', 'f16', 'f32'] as const)
    for (const compression of ['none', 'lzw', 'zip'])
      for (const planarconfig of ['contig', 'separate']) {
        const image = pictureOf(123, 77, 3, sample, 3);
        const path = join(folder, `o-${sample}-${compression}-${planarconfig}.tif`);
        await writeFile(`${path}.raw`, bytesOf(image));
        const attributes = {
          compression,
          planarconfig,
          'tiff:half': sample === 'f16' ? 1 : 0,
          'tiff:predictor': sample === 'f16' || sample === 'f32' ? 3 : 2,
          'tiff:RowsPerStrip': 10,
        };
        tasks.push({ do: 'write', path, raw: `${path}.raw`, sample, width: 123, height: 77, channels: 3, attributes });
        made.push({ path, image, raw: `${path}.raw` });
      }
  other(tasks);
  for (const { path, image } of made) {
    expect([path, isPlain(path, 3)]).toEqual([path, true]);
    expect([path, bytesOf(await readStill(path)).equals(bytesOf(image))]).toEqual([path, true]);
  }
  const ours: { path: string; image: Image; sample: SampleFormat }[] = [];
  for (const sample of ['u8', 'u16', 'f32'] as const)
    for (const tiffCompression of ['lzw', 'deflate'] as const)
      for (const effort of [1, 3, 5, 9]) {
        // Wide enough that a table of codes fills, and strips follow one another.
        const image = pictureOf(701, 260, 4, sample, 9);
        const path = join(folder, `w-${sample}-${tiffCompression}-${effort}.tif`);
        await writeStill(path, 'tiff', image, { ...usualSettings, tiffCompression, effort });
        expect(bytesOf(await readStill(path)).equals(bytesOf(image))).toBe(true);
        ours.push({ path, image, sample });
      }
  other(ours.map(({ path, sample }) => ({ do: 'read', path, raw: `${path}.raw`, sample })));
  for (const { path, image } of ours)
    expect([path, (await readFile(`${path}.raw`)).equals(bytesOf(image))]).toEqual([path, true]);
});

test('compressed data of which a bit is another is refused, or is the same picture; nothing ends the process', async () => {
  for (const tiffCompression of ['lzw', 'deflate'] as const) {
    const image = pictureOf(64, 48, 3, 'u16', 5);
    const path = join(folder, `flipped-${tiffCompression}.tif`);
    await writeStill(path, 'tiff', image, { ...usualSettings, tiffCompression });
    const whole = await readFile(path);
    let refused = 0;
    for (let at = 0; at < 300; at += 1) {
      const other = Buffer.from(whole);
      const place = Math.floor((at / 300) * whole.length);
      other[place]! ^= 1 << (at & 7);
      const bent = join(folder, `bent-${tiffCompression}-${at}.tif`);
      await writeFile(bent, other);
      const read = await readStill(bent).catch(() => undefined);
      if (!read) refused += 1;
      else if (tiffCompression === 'deflate' && place >= 8 && place < whole.length - 1000)
        expect(bytesOf(read).equals(bytesOf(image))).toBe(true);
    }
    expect(refused).toBeGreaterThan(tiffCompression === 'deflate' ? 200 : 60);
  }
});

test('a file that claims more than it has is refused in words', async () => {
  const image = pictureOf(40, 30, 3, 'u8', 1);
  const lies = { little: true, rows: 10, planes: false, deflated: false, predictor: 1 as const, beyond: 0 };
  const whole = fileOf(image, lies);
  const path = join(folder, 'cut.tif');
  // The directory says a strip more of bytes than the picture's width needs, and less.
  const short = fileOf({ ...image, width: 41, data: new Uint8Array(41 * 30 * 3) }, { ...lies, deflated: true });
  short.writeUInt32LE(43, short.readUInt32LE(4) + 2 + 8);
  await writeFile(path, short);
  await expect(readStill(path)).rejects.toThrow('compressed data is damaged');
  await writeFile(path, whole.subarray(0, whole.length - 500));
  await expect(readStill(path)).rejects.toThrow('cut.tif');
});
