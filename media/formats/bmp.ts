import { readFile, writeFile } from 'node:fs/promises';
import type { Image } from '@shale/core';
import { lacking, refuseAbsurdSize, type StillFormat } from './format.ts';

/** Bytes of the file's header and of the picture's, in its fifth version, which has masks and a colour space. */
const headerBytes = { file: 14, picture: 124 };
/** `LCS_sRGB`, as the field of the colour space holds it. */
const sRgb = 0x73524742;

/** A mask's samples as 8 bits: its lowest bit, and the greatest value that fits. */
function channelBy(mask: number): (pixel: number) => number {
  if (mask === 0) return () => 255;
  const shift = 31 - Math.clz32(mask & -mask);
  const most = mask >>> shift;
  return (pixel) => Math.floor((((pixel & mask) >>> shift) * 255) / most + 0.5);
}

/** The rows of an uncompressed picture, from the top, in RGB or RGBA. */
function unpack(bytes: Buffer): Image {
  const dataAt = bytes.readUInt32LE(10);
  const old = bytes.readUInt32LE(14) === 12;
  const width = old ? bytes.readUInt16LE(18) : Math.abs(bytes.readInt32LE(18));
  const signed = old ? bytes.readUInt16LE(20) : bytes.readInt32LE(22);
  const height = Math.abs(signed);
  const bits = bytes.readUInt16LE(old ? 24 : 28);
  const compression = old ? 0 : bytes.readUInt32LE(30);
  if (![0, 3, 6].includes(compression)) throw new Error('it is run-length coded, which this version does not read');
  const masks =
    bits === 16 || bits === 32
      ? compression === 0
        ? bits === 16
          ? [0x7c00, 0x3e0, 0x1f, 0]
          : [0xff0000, 0xff00, 0xff, 0]
        : [54, 58, 62, 66].map((at) => (at === 66 && bytes.readUInt32LE(14) < 56 ? 0 : bytes.readUInt32LE(at)))
      : undefined;
  const paletteAt = 14 + bytes.readUInt32LE(14);
  const channels = masks?.[3] ? 4 : 3;
  const data = new Uint8Array(width * height * channels);
  const stride = Math.ceil((width * bits) / 32) * 4;
  const takers = masks?.map(channelBy);
  for (let y = 0; y < height; y += 1) {
    const row = dataAt + (signed < 0 ? y : height - 1 - y) * stride;
    let to = y * width * channels;
    for (let x = 0; x < width; x += 1, to += channels) {
      if (takers) {
        const pixel = bits === 16 ? bytes.readUInt16LE(row + x * 2) : bytes.readUInt32LE(row + x * 4);
        for (let channel = 0; channel < channels; channel += 1) data[to + channel] = takers[channel]!(pixel);
        continue;
      }
      const shift = 8 - bits - ((x * bits) & 7);
      const from =
        bits === 24
          ? row + x * 3
          : paletteAt + ((bytes[row + ((x * bits) >> 3)]! >> shift) & (2 ** bits - 1)) * (old ? 3 : 4);
      if (from + 3 > bytes.length) throw new Error('it names a colour outside its palette');
      data[to] = bytes[from + 2]!;
      data[to + 1] = bytes[from + 1]!;
      data[to + 2] = bytes[from]!;
    }
  }
  return { width, height, channels, sample: 'u8', data };
}

/** Rows from the bottom, blue first; 32 bits with masks where there is alpha (BITMAPV5HEADER). */
function pack({ width, height, channels, data }: Image): Buffer {
  const stride = Math.ceil((width * channels) / 4) * 4;
  const dataAt = headerBytes.file + headerBytes.picture;
  const file = Buffer.alloc(dataAt + stride * height);
  file.write('BM', 0, 'latin1');
  file.writeUInt32LE(file.length, 2);
  file.writeUInt32LE(dataAt, 10);
  file.writeUInt32LE(headerBytes.picture, 14);
  file.writeInt32LE(width, 18);
  file.writeInt32LE(height, 22);
  file.writeUInt16LE(1, 26);
  file.writeUInt16LE(channels * 8, 28);
  file.writeUInt32LE(channels === 4 ? 3 : 0, 30);
  file.writeUInt32LE(stride * height, 34);
  [0xff0000, 0xff00, 0xff, channels === 4 ? 0xff000000 : 0].forEach((mask, at) =>
    file.writeUInt32LE(mask, 54 + at * 4),
  );
  file.writeUInt32LE(sRgb, 70);
  for (let y = 0; y < height; y += 1) {
    let to = dataAt + (height - 1 - y) * stride;
    for (let from = y * width * channels; from < (y + 1) * width * channels; from += channels, to += channels) {
      file[to] = data[from + 2]!;
      file[to + 1] = data[from + 1]!;
      file[to + 2] = data[from]!;
      if (channels === 4) file[to + 3] = data[from + 3]!;
    }
  }
  return file;
}

/** BMP without compression: palettes, 16, 24 and 32 bits on read; 24, and 32 with alpha, on write. */
export const bmp = {
  recognises: (head) => head.length >= 26 && head[0] === 0x42 && head[1] === 0x4d && head.readUInt32LE(14) >= 12,
  header(file) {
    const head = file.need(0, 34);
    const dataAt = head.readUInt32LE(10);
    const old = head.readUInt32LE(14) === 12;
    const width = old ? head.readUInt16LE(18) : Math.abs(head.readInt32LE(18));
    const height = old ? head.readUInt16LE(20) : Math.abs(head.readInt32LE(22));
    refuseAbsurdSize(width, height);
    const bits = old ? head.readUInt16LE(24) : head.readUInt16LE(28);
    if (![1, 2, 4, 8, 16, 24, 32].includes(bits))
      throw new Error(`its depth of ${bits} bits is not one that Shale knows`);
    const packed = !old && [1, 2].includes(head.readUInt32LE(30));
    // A fourth byte is alpha only where the later headers give it a mask, and masks are in use.
    const masked = !old && head.readUInt32LE(14) >= 56 && bits === 32 && [3, 6].includes(head.readUInt32LE(30));
    const mask = masked ? file.need(66, 4).readUInt32LE(0) : 0;
    const needs = packed ? head.readUInt32LE(2) : dataAt + Math.ceil((width * bits) / 32) * 4 * height;
    return {
      facts: {
        width,
        height,
        format: 'bmp',
        sample: 'u8',
        channels: mask ? ['R', 'G', 'B', 'A'] : ['R', 'G', 'B'],
        hasAlpha: mask !== 0,
        compression: packed ? 'RLE' : 'none',
        more: bits <= 8 ? [['Palette', `${2 ** bits} colours at most`]] : [],
      },
      dataAt: Math.min(dataAt, file.size),
      cutShort: lacking(file.size, needs),
    };
  },
  read: async (path) => unpack(await readFile(path)),
  async write(path, image) {
    await writeFile(path, pack(image), { flag: 'wx' });
  },
} satisfies StillFormat;
