import { mkdtemp, readFile, rm, truncate, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Codec, type AVCodecID, type AVPixelFormat } from 'node-av';
import {
  AV_CODEC_ID_BMP,
  AV_CODEC_ID_JPEGXL,
  AV_CODEC_ID_PAM,
  AV_CODEC_ID_PFM,
  AV_CODEC_ID_PGM,
  AV_CODEC_ID_PPM,
  AV_PIX_FMT_BGR24,
  AV_PIX_FMT_GBRPF32LE,
  AV_PIX_FMT_GRAY8,
  AV_PIX_FMT_RGB24,
  AV_PIX_FMT_RGB48BE,
  AV_PIX_FMT_RGB48LE,
  AV_PIX_FMT_RGBA,
} from 'node-av/constants';
import sharp from 'sharp';
import type { Facts, Image } from '@shale/core';
import { probeStill, readStill, usualSettings, writeStill, type WriteSettings } from './formats/index.ts';
import { writeExr } from './formats/exr.ts';
import { lookAt, samePicture } from './look.ts';
import { encodePacket } from './video/libav.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-headers-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const width = 40;
const height = 24;
const grain = (length: number): Buffer =>
  Buffer.from(Uint8Array.from({ length }, (_, at) => (Math.imul(at + 1, 2_654_435_761) >>> 11) & 255));

/** Bytes of a pixel in the layouts that libav is given. */
const pixelBytes = new Map<AVPixelFormat, number>([
  [AV_PIX_FMT_BGR24, 3],
  [AV_PIX_FMT_RGB24, 3],
  [AV_PIX_FMT_GRAY8, 1],
  [AV_PIX_FMT_RGBA, 4],
  [AV_PIX_FMT_RGB48BE, 6],
  [AV_PIX_FMT_RGB48LE, 6],
  [AV_PIX_FMT_GBRPF32LE, 12],
]);

const byLibav = (id: AVCodecID, format: AVPixelFormat): Promise<Buffer> =>
  encodePacket(Codec.findEncoder(id)!, {
    width,
    height,
    format,
    bytes: grain(width * height * pixelBytes.get(format)!),
  });

const bySharp = (channels: 1 | 3 | 4) => sharp(grain(width * height * channels), { raw: { width, height, channels } });

/** A file of every format that another library writes, and what its header must say. */
const files: [name: string, make: () => Promise<Buffer>, facts: Partial<Facts>][] = [
  [
    'a.bmp',
    () => byLibav(AV_CODEC_ID_BMP, AV_PIX_FMT_BGR24),
    { format: 'bmp', sample: 'u8', channels: ['R', 'G', 'B'] },
  ],
  ['a.jxl', () => byLibav(AV_CODEC_ID_JPEGXL, AV_PIX_FMT_RGB24), { format: 'jxl', sample: 'u8', hasAlpha: false }],
  ['alpha.jxl', () => byLibav(AV_CODEC_ID_JPEGXL, AV_PIX_FMT_RGBA), { format: 'jxl', sample: 'u8', hasAlpha: true }],
  ['deep.jxl', () => byLibav(AV_CODEC_ID_JPEGXL, AV_PIX_FMT_RGB48LE), { format: 'jxl', sample: 'u16' }],
  ['a.pgm', () => byLibav(AV_CODEC_ID_PGM, AV_PIX_FMT_GRAY8), { format: 'pnm', sample: 'u8', channels: ['Y'] }],
  [
    'a.ppm',
    () => byLibav(AV_CODEC_ID_PPM, AV_PIX_FMT_RGB24),
    { format: 'pnm', sample: 'u8', channels: ['R', 'G', 'B'] },
  ],
  ['deep.ppm', () => byLibav(AV_CODEC_ID_PPM, AV_PIX_FMT_RGB48BE), { format: 'pnm', sample: 'u16' }],
  ['a.pam', () => byLibav(AV_CODEC_ID_PAM, AV_PIX_FMT_RGBA), { format: 'pam', sample: 'u8', hasAlpha: true }],
  ['a.pfm', () => byLibav(AV_CODEC_ID_PFM, AV_PIX_FMT_GBRPF32LE), { format: 'pfm', sample: 'f32' }],
  ['a.webp', () => bySharp(3).webp({ quality: 80 }).toBuffer(), { format: 'webp', hasAlpha: false }],
  ['lossless.webp', () => bySharp(3).webp({ lossless: true }).toBuffer(), { format: 'webp', compression: 'lossless' }],
  ['alpha.webp', () => bySharp(4).webp({ quality: 80 }).toBuffer(), { format: 'webp', hasAlpha: true }],
  ['a.gif', () => bySharp(3).gif().toBuffer(), { format: 'gif', sample: 'u8' }],
  ['a.avif', () => bySharp(3).avif({ lossless: false }).toBuffer(), { format: 'avif', sample: 'u8', hasAlpha: false }],
  ['alpha.avif', () => bySharp(4).avif().toBuffer(), { format: 'avif', hasAlpha: true }],
  [
    'a.jpg',
    () => bySharp(3).jpeg({ chromaSubsampling: '4:2:0' }).toBuffer(),
    { format: 'jpeg', more: [['Chroma', '4:2:0']] },
  ],
  ['progressive.jpg', () => bySharp(3).jpeg({ progressive: true }).toBuffer(), { format: 'jpeg', sample: 'u8' }],
  [
    'exif.jpg',
    () =>
      bySharp(3)
        .withExif({ IFD0: { Copyright: 'Tram museum '.repeat(900) } })
        .jpeg()
        .toBuffer(),
    { format: 'jpeg' },
  ],
  ['grey.jpg', () => bySharp(3).toColourspace('b-w').jpeg().toBuffer(), { format: 'jpeg', channels: ['Y'] }],
  [
    'a.tif',
    () => bySharp(4).tiff({ compression: 'lzw' }).toBuffer(),
    { format: 'tiff', compression: 'lzw', hasAlpha: true },
  ],
  ['tiles.tif', () => bySharp(3).tiff({ tile: true, compression: 'deflate' }).toBuffer(), { compression: 'deflate' }],
  [
    'float.tif',
    () => bySharp(3).toColourspace('scrgb').tiff({ compression: 'none' }).toBuffer(),
    { format: 'tiff', sample: 'f32', channels: ['R', 'G', 'B'] },
  ],
  ['palette.png', () => bySharp(3).png({ palette: true, colours: 16 }).toBuffer(), { format: 'png', sample: 'u8' }],
];

test.each(files)('%s: the header, by what another library wrote', async (name, make, facts) => {
  const path = join(folder, name);
  await writeFile(path, await make());
  expect(await probeStill(path)).toMatchObject({ width, height, ...facts });
});

test.each(files.filter(([name]) => !/\.jxl$/.test(name)))(
  '%s cut short is told without decoding',
  async (name, make) => {
    const path = join(folder, `cut-${name}`);
    const whole = await make();
    for (const share of [0.6, 0.97]) {
      await writeFile(path, whole.subarray(0, Math.floor(whole.length * share)));
      await expect(probeStill(path)).rejects.toMatchObject({
        code: 'truncated-file',
        fact: expect.stringContaining(`cut-${name} is cut short`),
      });
    }
  },
);

test('a TIFF with associated alpha is read as what the header says it is', async () => {
  // sharp writes unassociated alpha; the tag is turned to 1, associated (TIFF 6.0, section 18).
  const path = join(folder, 'associated.tif');
  const flat = sharp(Buffer.from([200, 100, 50, 128]), { raw: { width: 1, height: 1, channels: 4 } });
  const bytes = await flat.tiff({ compression: 'none' }).toBuffer();
  await writeFile(path, bytes);
  expect((await probeStill(path)).alphaSays).toBe('straight');
  const little = bytes[0] === 0x49;
  const short = (at: number) => (little ? bytes.readUInt16LE(at) : bytes.readUInt16BE(at));
  const directory = little ? bytes.readUInt32LE(4) : bytes.readUInt32BE(4);
  for (let entry = 0; entry < short(directory); entry += 1) {
    const at = directory + 2 + entry * 12;
    if (short(at) !== 338) continue;
    if (little) bytes.writeUInt16LE(1, at + 8);
    else bytes.writeUInt16BE(1, at + 8);
  }
  await writeFile(path, bytes);
  const { alphaSays } = await probeStill(path);
  const { data } = await readStill(path);
  // What comes back is what is stored: nothing was divided on the way.
  expect({ alphaSays, data: [...data] }).toEqual({ alphaSays: 'premultiplied', data: [200, 100, 50, 128] });
});

/** A chunk's place in a PNG, behind its header: 8 + 25 bytes. */
async function withChunk(path: string, type: string, data: Buffer): Promise<void> {
  const { crc32 } = await import('node:zlib');
  const bytes = await readFile(path);
  const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
  const chunk = Buffer.alloc(body.length + 8);
  chunk.writeUInt32BE(data.length, 0);
  body.copy(chunk, 4);
  chunk.writeUInt32BE(crc32(body), chunk.length - 4);
  await writeFile(path, Buffer.concat([bytes.subarray(0, 33), chunk, bytes.subarray(33)]));
}

test('PNG chunks: cICP, cHRM, pHYs', async () => {
  const path = join(folder, 'chunks.png');
  const plain = async () => writeFile(path, await bySharp(3).png().toBuffer());
  await plain();
  await withChunk(path, 'cICP', Buffer.from([9, 16, 0, 1]));
  expect(await probeStill(path)).toMatchObject({ transfer: 'pq', primaries: 'bt2020' });
  await plain();
  const points = Buffer.alloc(32);
  [31_270, 32_900, 68_000, 32_000, 26_500, 69_000, 15_000, 6000].forEach((value, at) =>
    points.writeUInt32BE(value, at * 4),
  );
  await withChunk(path, 'cHRM', points);
  expect((await probeStill(path)).primaries).toBe('p3');
  await plain();
  const perUnit = Buffer.alloc(9);
  perUnit.writeUInt32BE(1000, 0);
  perUnit.writeUInt32BE(2000, 4);
  await withChunk(path, 'pHYs', perUnit);
  expect((await probeStill(path)).pixelAspect).toEqual({ num: 2, den: 1 });
});

const half = (seed: number): Image => ({
  width: 64,
  height: 200,
  channels: 4,
  sample: 'f16',
  data: Uint16Array.from({ length: 64 * 200 * 4 }, (_, at) => 0x3000 + ((at * seed) & 0x3ff)),
});

test.each(['NONE', 'RLE', 'ZIPS', 'ZIP', 'PIZ', 'PXR24', 'B44', 'B44A', 'DWAA', 'DWAB'])(
  'an OpenEXR of %s that lacks its last bytes is cut short',
  async (compression) => {
    const path = join(folder, `${compression}.exr`);
    await rm(path, { force: true });
    await writeExr(path, half(37), { compression });
    expect(await probeStill(path)).toMatchObject({ format: 'exr', compression });
    const { length } = await readFile(path);
    await truncate(path, length - 1);
    await expect(probeStill(path)).rejects.toMatchObject({ code: 'truncated-file' });
    await truncate(path, Math.floor(length / 2));
    await expect(probeStill(path)).rejects.toMatchObject({ code: 'truncated-file' });
  },
);

describe('a look', () => {
  test('tells the same picture under another header, and another picture of the same size', async () => {
    const paths = ['one', 'again', 'other'].map((name) => join(folder, `${name}.exr`));
    await writeExr(paths[0]!, half(11), {
      compression: 'NONE',
      attributes: [{ name: 'framesPerSecond', type: 'rational', value: [24, 1] }],
    });
    await writeExr(paths[1]!, half(11), {
      compression: 'NONE',
      attributes: [{ name: 'comments', type: 'string', value: 'a second render' }],
    });
    await writeExr(paths[2]!, half(13), { compression: 'NONE' });
    const [one, again, other] = await Promise.all(paths.map(lookAt));
    expect([one!.picture, one!.content]).toEqual([again!.picture, again!.content]);
    expect(other!.picture).toBe(one!.picture);
    expect(other!.content).not.toBe(one!.content);
    expect(await samePicture(paths[0]!, paths[1]!)).toBe(true);
    expect(await samePicture(paths[0]!, paths[2]!)).toBe(false);
    expect(await samePicture(paths[0]!, join(folder, 'nothing.exr'))).toBeUndefined();
  });

  test('one byte that no sample meets is found by the comparison', async () => {
    const big: Image = { width: 400, height: 400, channels: 4, sample: 'u8', data: grain(400 * 400 * 4) };
    const [a, b] = [join(folder, 'same-a.tif'), join(folder, 'same-b.tif')];
    const settings: WriteSettings = { ...usualSettings, effort: 1, quality: 90, tiffCompression: 'none' };
    await writeStill(a, 'tiff', big, settings);
    const bytes = await readFile(a);
    bytes[Math.floor(bytes.length * 0.2)]! ^= 1;
    await writeFile(b, bytes);
    const [first, second] = [await lookAt(a), await lookAt(b)];
    expect(second.content).toBe(first.content);
    expect(await samePicture(a, b)).toBe(false);
  });

  test('never throws: what is wrong is in the answer', async () => {
    await writeFile(join(folder, 'note.png'), 'no picture');
    expect((await lookAt(join(folder, 'note.png'))).problem).toMatchObject({ code: 'unknown-format' });
    expect((await lookAt(join(folder, 'gone.png'))).problem).toMatchObject({ code: 'file-gone' });
    expect((await lookAt(folder)).problem).toBeDefined();
  });
});
