import { readFile, writeFile } from 'node:fs/promises';
import type { Frame } from 'node-av';
import { AV_CODEC_ID_BMP, AV_PIX_FMT_PAL8 } from 'node-av/constants';
import { greyToColour, type Facts, type Image } from '@shale/core';
import { imageOf } from '../video/frameImage.ts';
import { decodePacket } from '../video/libav.ts';
import { lacking, refuseAbsurdSize, refuseBeyondLibav, type StillFormat } from './format.ts';
import { NotRead } from '../notRead.ts';

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

/** Pixels of 16 or 32 bits, from the top, in RGB or RGBA by the masks of the header, or by the usual ones. */
function unpackMasked(bytes: Buffer): Image {
  const dataAt = bytes.readUInt32LE(10);
  const width = Math.abs(bytes.readInt32LE(18));
  const signed = bytes.readInt32LE(22);
  const height = Math.abs(signed);
  const bits = bytes.readUInt16LE(28);
  const usual = bits === 16 ? [0x7c00, 0x3e0, 0x1f, 0] : [0xff0000, 0xff00, 0xff, 0];
  const masks =
    bytes.readUInt32LE(30) === 0
      ? usual
      : [54, 58, 62, 66].map((at) => (at === 66 && bytes.readUInt32LE(14) < 56 ? 0 : bytes.readUInt32LE(at)));
  const channels = masks[3] ? 4 : 3;
  const data = new Uint8Array(width * height * channels);
  const stride = Math.ceil((width * bits) / 32) * 4;
  const takers = masks.map(channelBy);
  for (let y = 0, to = 0; y < height; y += 1) {
    const row = dataAt + (signed < 0 ? y : height - 1 - y) * stride;
    for (let x = 0; x < width; x += 1, to += channels) {
      const pixel = bits === 16 ? bytes.readUInt16LE(row + x * 2) : bytes.readUInt32LE(row + x * 4);
      for (let channel = 0; channel < channels; channel += 1) data[to + channel] = takers[channel]!(pixel);
    }
  }
  return { width, height, channels, sample: 'u8', data };
}

/** The palette of a file: blue, green, red, and in all but the oldest header a fourth byte. */
function paletteOf(bytes: Buffer): { each: number; colours: Buffer } {
  const headerSize = bytes.readUInt32LE(14);
  const old = headerSize === 12;
  const bits = bytes.readUInt16LE(old ? 24 : 28);
  const said = old ? 0 : bytes.readUInt32LE(46);
  const count = said > 0 && said < 2 ** bits ? said : 2 ** bits;
  const each = old ? 3 : 4;
  const from = headerBytes.file + headerSize;
  return { each, colours: bytes.subarray(from, Math.min(from + count * each, bytes.readUInt32LE(10))) };
}

/** Places in a palette as their colours. */
function coloured(frame: Frame, { each, colours }: ReturnType<typeof paletteOf>): Image {
  const { width, height, linesize } = frame;
  const places = frame.data![0]!;
  const data = new Uint8Array(width * height * 3);
  for (let y = 0, to = 0; y < height; y += 1) {
    for (let x = 0; x < width; x += 1, to += 3) {
      const at = places[y * linesize[0]! + x]! * each;
      if (at + 3 > colours.length) throw new Error('it names a colour outside its palette');
      data[to] = colours[at + 2]!;
      data[to + 1] = colours[at + 1]!;
      data[to + 2] = colours[at]!;
    }
  }
  return { width, height, channels: 3, sample: 'u8', data };
}

/**
 * Walks through run-length coded data: it has to come to its mark of the end, and no run may leave its row. The library takes what it
 * gets, and leaves the rest black. @throws where the data is torn
 */
function refuseTornRuns(bytes: Buffer, bits: number): void {
  const width = Math.abs(bytes.readInt32LE(18));
  const height = Math.abs(bytes.readInt32LE(22));
  const torn = (why: string) => new Error(`its run-length data is damaged: ${why}`);
  let [x, y] = [0, 0];
  for (let at = bytes.readUInt32LE(10); at + 2 <= bytes.length;) {
    const [count, value] = [bytes[at]!, bytes[at + 1]!];
    at += 2;
    if (count === 0 && value === 1) return;
    if (count === 0 && value === 0) [x, y] = [0, y + 1];
    else if (count === 0 && value === 2) {
      if (at + 2 > bytes.length) break;
      [x, y] = [x + bytes[at]!, y + bytes[at + 1]!];
      at += 2;
    } else {
      x += count === 0 ? value : count;
      // Stretches as they are fill whole words.
      if (count === 0) at += Math.ceil((value * bits) / 16) * 2;
    }
    if (x > width || y > height || (y === height && x > 0)) throw torn('a run leaves its row');
  }
  throw torn('it ends before its end');
}

/** The picture of a file: with a palette, run-length coded or not, and of 24 bits through libav. */
async function unpack(bytes: Buffer, facts: Facts): Promise<Image> {
  const bits = bytes.readUInt16LE(bytes.readUInt32LE(14) === 12 ? 24 : 28);
  if (bits === 16 || bits === 32) return unpackMasked(bytes);
  refuseBeyondLibav(facts);
  if (facts.compression === 'RLE') refuseTornRuns(bytes, bits);
  const frame = await decodePacket(AV_CODEC_ID_BMP, bytes);
  try {
    return frame.format === AV_PIX_FMT_PAL8 ? coloured(frame, paletteOf(bytes)) : asColour(imageOf(frame));
  } finally {
    frame.free();
  }
}

/** A palette of greys comes as one channel; it is colour as any other. */
function asColour(image: Image): Image {
  if (image.channels !== 1) return image;
  return greyToColour(image);
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

/** BMP: palettes, run-length coded or not, 16, 24 and 32 bits on read; 24, and 32 with alpha, on write. */
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
    if (![1, 2, 4, 8, 16, 24, 32].includes(bits)) throw new NotRead(`its depth of ${bits} bits is unknown to Shale`);
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
  read: async (path, facts) => unpack(await readFile(path), facts),
  async write(path, image) {
    await writeFile(path, pack(image), { flag: 'wx' });
  },
} satisfies StillFormat;
