import { readFile, writeFile } from 'node:fs/promises';
import { AV_CODEC_ID_TARGA, AV_PIX_FMT_BGR24, AV_PIX_FMT_BGRA, AV_PIX_FMT_GRAY8, Codec } from 'node-av';
import type { Image } from '@shale/core';
import { imageOf } from '../video/frameImage.ts';
import { decodePacket, encodePacket } from '../video/libav.ts';
import { lacking, refuseAbsurdSize, refuseBeyondLibav, type StillFormat, type StillHeader } from './format.ts';
import type { HeaderFile } from './headerFile.ts';

/** The 18 bytes that every TGA begins with (Truevision TGA 2.0, C.2). */
function fields(head: Buffer) {
  const type = head[2]!;
  const paletteBytes = head[1] === 1 ? head.readUInt16LE(5) * Math.ceil(head[7]! / 8) : 0;
  return {
    type,
    width: head.readUInt16LE(12),
    height: head.readUInt16LE(14),
    bits: head[16]!,
    alphaBits: head[17]! & 0x0f,
    dataAt: 18 + head[0]! + paletteBytes,
    packed: type >= 9,
  };
}

/** The last 18 bytes of a file of version 2 (Truevision TGA 2.0, C.6). */
const footer = 'TRUEVISION-XFILE.\0';

function header(file: HeaderFile): StillHeader {
  const { type, width, height, bits, alphaBits, dataAt, packed } = fields(file.need(0, 18));
  refuseAbsurdSize(width, height);
  if (![2, 3, 10, 11].includes(type) || ![8, 24, 32].includes(bits)) {
    throw new Error(`its TGA type ${type} with ${bits} bits is not one that this version reads (grey, 24 and 32 bits)`);
  }
  // Packed data of a file without a footer says nowhere how long it is; only decoding tells whether it is whole.
  const hasFooter = file.read(file.size - 18, 18).toString('latin1') === footer;
  const hasAlpha = bits === 32 && alphaBits > 0;
  const colours = bits === 8 ? ['Y'] : ['R', 'G', 'B'];
  return {
    facts: {
      width,
      height,
      format: 'tga',
      sample: 'u8',
      channels: hasAlpha ? [...colours, 'A'] : colours,
      hasAlpha,
      compression: packed ? 'RLE' : 'none',
      more: [],
    },
    dataAt,
    cutShort: hasFooter ? undefined : lacking(file.size, dataAt + (packed ? 1 : width * height * (bits / 8))),
  };
}

/** Swaps the first and third of every pixel's samples, in place: BGR <-> RGB. */
function swapRedBlue(data: Uint8Array, channels: number): void {
  if (channels < 3) return;
  for (let at = 0; at < data.length; at += channels) {
    const blue = data[at]!;
    data[at] = data[at + 2]!;
    data[at + 2] = blue;
  }
}

/** TGA of 8, 24 and 32 bits through libav, written run-length coded. */
export const tga = {
  recognises: (_head, name) => /\.tga$/i.test(name),
  header,
  async read(path, facts) {
    refuseBeyondLibav(facts);
    const frame = await decodePacket(AV_CODEC_ID_TARGA, await readFile(path));
    try {
      const image = imageOf(frame);
      return image.channels === 4 && !facts.hasAlpha
        ? { ...image, channels: 3, data: withoutFourth(image.data) }
        : image;
    } finally {
      frame.free();
    }
  },
  async write(path, image) {
    const encoder = Codec.findEncoder(AV_CODEC_ID_TARGA)!;
    const { width, height } = image;
    const { channels } = image;
    const bytes = Buffer.from(image.data as Uint8Array);
    swapRedBlue(bytes, channels);
    const format = channels === 1 ? AV_PIX_FMT_GRAY8 : channels === 3 ? AV_PIX_FMT_BGR24 : AV_PIX_FMT_BGRA;
    await writeFile(path, await encodePacket(encoder, { width, height, format, bytes }), { flag: 'wx' });
  },
} satisfies StillFormat;

function withoutFourth(data: Image['data']): Uint8Array {
  const three = new Uint8Array((data.length / 4) * 3);
  for (let from = 0, to = 0; from < data.length; from += 4, to += 3) {
    three[to] = data[from]!;
    three[to + 1] = data[from + 1]!;
    three[to + 2] = data[from + 2]!;
  }
  return three;
}
