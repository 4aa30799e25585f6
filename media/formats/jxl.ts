import { readFile, writeFile } from 'node:fs/promises';
import { Codec, type AVPixelFormat } from 'node-av';
import {
  AV_CODEC_ID_JPEGXL,
  AV_PIX_FMT_GRAY16LE,
  AV_PIX_FMT_GRAY8,
  AV_PIX_FMT_GRAYF32LE,
  AV_PIX_FMT_RGB24,
  AV_PIX_FMT_RGB48LE,
  AV_PIX_FMT_RGBA,
  AV_PIX_FMT_RGBA64LE,
  AV_PIX_FMT_RGBAF32LE,
  AV_PIX_FMT_RGBF32LE,
  AV_PIX_FMT_YA16LE,
  AV_PIX_FMT_YA8,
} from 'node-av/constants';
import { makeRate, type Image, type Rate, type SampleFormat } from '@shale/core';
import { imageOf } from '../video/frameImage.ts';
import { decodePacket, encodePacket } from '../video/libav.ts';
import {
  lacking,
  primariesByCode,
  refuseAbsurdSize,
  refuseBeyondLibav,
  transferByCode,
  type StillFormat,
  primariesPoints,
  transferPoints,
  unsaidPoint,
} from './format.ts';
import { distanceOf } from '../jxlDistance.ts';
import type { HeaderFile } from './headerFile.ts';
import { animatedPicture, animationOf, type Animation } from './jxlAnimation.ts';
import { NotRead } from '../notRead.ts';

/** Bits from the lowest of each byte on, as the codestream has them (ISO/IEC 18181-1, annex B). */
class Bits {
  private at = 0;
  constructor(private readonly bytes: Buffer) {}

  take(count: number): number {
    let value = 0;
    for (let bit = 0; bit < count; bit += 1, this.at += 1) {
      const byte = this.bytes[this.at >> 3];
      if (byte === undefined) throw new Error('it ends within its header');
      value += ((byte >> (this.at & 7)) & 1) * 2 ** bit;
    }
    return value;
  }

  /** One of four ways to write a number, each an offset and a count of bits. */
  choose(...ways: [offset: number, bits: number][]): number {
    const [offset, bits] = ways[this.take(2)]!;
    return offset + this.take(bits);
  }
}

/** How an animation runs (annex D.3.3): ticks a second as a fraction, loops, whether pictures bear timecodes. @returns a tick in seconds */
function tickOf(bits: Bits): Rate {
  const ticks = bits.choose([100, 0], [1000, 0], [1, 10], [1, 30]);
  const seconds = bits.choose([1, 0], [1001, 0], [1, 8], [1, 10]);
  bits.choose([0, 0], [0, 3], [0, 16], [0, 32]);
  bits.take(1);
  return makeRate(seconds, ticks);
}

const ratios = [1, 1, 12 / 10, 4 / 3, 3 / 2, 16 / 9, 5 / 4, 2] as const;

function sizeOf(bits: Bits): { width: number; height: number } {
  const small = bits.take(1) === 1;
  const side = () => (small ? (bits.take(5) + 1) * 8 : bits.choose([1, 9], [1, 13], [1, 18], [1, 30]));
  const height = side();
  const ratio = bits.take(3);
  return { height, width: ratio === 0 ? side() : Math.floor(height * ratios[ratio]! + 1e-9) };
}

function sampleOf(bits: Bits): SampleFormat {
  if (bits.take(1) === 1) {
    const width = bits.choose([32, 0], [16, 0], [24, 0], [1, 6]);
    bits.take(4);
    return width === 16 ? 'f16' : 'f32';
  }
  const width = bits.choose([8, 0], [10, 0], [12, 0], [1, 6]);
  return width <= 8 ? 'u8' : width <= 10 ? 'u10' : width <= 12 ? 'u12' : 'u16';
}

/** One of a list, as the codestream writes it (annex B.2.4). */
const takeEnum = (bits: Bits): number => bits.choose([0, 0], [1, 0], [2, 4], [18, 6]);

const alphaChannel = 0;
const spotColour = 2;
const filterArray = 5;

/** An extra channel (annex D.3.6): what it is, and of alpha whether colours are multiplied by it. */
function extraChannel(bits: Bits): { type: number; associated: boolean } {
  if (bits.take(1) === 1) return { type: alphaChannel, associated: false };
  const type = takeEnum(bits);
  sampleOf(bits);
  bits.choose([0, 0], [3, 0], [4, 0], [1, 3]);
  bits.take(8 * bits.choose([0, 0], [0, 4], [16, 5], [48, 10]));
  const associated = type === alphaChannel && bits.take(1) === 1;
  if (type === spotColour) bits.take(64);
  if (type === filterArray) bits.choose([1, 0], [0, 2], [3, 4], [19, 8]);
  return { type, associated };
}

/** A point of a colour, which nobody looks at: signed and unsigned numbers are as long. */
const skipPoint = (bits: Bits): void => {
  for (let axis = 0; axis < 2; axis += 1) bits.choose([0, 19], [524_288, 19], [1_048_576, 20], [2_097_152, 21]);
};

const [isRgb, isGrey, isXyb, custom] = [0, 1, 2, 2];

/** What is said of the colours (annex D.3.5): whether they are grey, their curve and primaries as codes of ITU-T H.273. */
function colourOf(bits: Bits): { grey: boolean; transfer?: string; primaries?: string } {
  if (bits.take(1) === 1) return { grey: false, transfer: 'srgb', primaries: 'bt709' };
  const hasProfile = bits.take(1) === 1;
  const space = takeEnum(bits);
  const grey = space === isGrey;
  if (hasProfile || space === isXyb) return { grey };
  const white = takeEnum(bits);
  if (white === custom) skipPoint(bits);
  const points = space === isRgb ? takeEnum(bits) : 1;
  if (space === isRgb && points === custom) for (let point = 0; point < 3; point += 1) skipPoint(bits);
  const primaries = white === 1 && points !== custom ? primariesByCode(points === 11 ? 12 : points) : undefined;
  // A power in ten-millionths.
  if (bits.take(1) === 1) return { grey, transfer: `gamma-${(1e7 / bits.take(24)).toFixed(1)}`, primaries };
  return { grey, transfer: transferByCode(takeEnum(bits)), primaries };
}

/** Where the codestream begins: at once, or in a `jxlc` or the first `jxlp` box; and where the boxes end. */
function codestream(file: HeaderFile): { at: number; ends: number } {
  if (file.head[0] === 0xff) return { at: 0, ends: 0 };
  let at = 0;
  let found: number | undefined;
  while (at + 8 <= file.size) {
    const head = file.need(at, 8);
    const size = head.readUInt32BE(0) || file.size - at;
    const type = head.toString('latin1', 4, 8);
    if (type === 'jxlc') found ??= at + 8;
    if (type === 'jxlp') found ??= at + 12;
    if (size < 8) throw new Error('its boxes are damaged');
    at += size;
  }
  if (found === undefined) throw new Error('it names no picture');
  return { at: found, ends: at };
}

const encoderFormats: Record<string, readonly AVPixelFormat[]> = {
  u8: [AV_PIX_FMT_GRAY8, AV_PIX_FMT_YA8, AV_PIX_FMT_RGB24, AV_PIX_FMT_RGBA],
  u16: [AV_PIX_FMT_GRAY16LE, AV_PIX_FMT_YA16LE, AV_PIX_FMT_RGB48LE, AV_PIX_FMT_RGBA64LE],
  f32: [AV_PIX_FMT_GRAYF32LE, AV_PIX_FMT_RGBAF32LE, AV_PIX_FMT_RGBF32LE, AV_PIX_FMT_RGBAF32LE],
};

/** Codes that the decoder gives in 16 bits brought back to the depth that the file is of. */
function narrowed(image: Image, sample: SampleFormat): Image {
  const bits = { u10: 10, u12: 12 }[sample as string];
  if (bits === undefined || image.sample !== 'u16') return image;
  const max = 2 ** bits - 1;
  return { ...image, sample, data: (image.data as Uint16Array).map((code) => Math.floor((code * max) / 65_535 + 0.5)) };
}

/** JPEG XL (ISO/IEC 18181-1, annex D) through libjxl in libav. */
export const jxl = {
  recognises: (head) =>
    (head[0] === 0xff && head[1] === 0x0a) ||
    head.subarray(0, 12).equals(Buffer.from('0000000c4a584c200d0a870a', 'hex')),
  async header(file) {
    const { at, ends } = codestream(file);
    const bits = new Bits(file.read(at + 2, 512));
    const { width, height } = sizeOf(bits);
    refuseAbsurdSize(width, height);
    let sample: SampleFormat = 'u8';
    let tick: Rate | undefined;
    let alpha: { associated: boolean } | undefined;
    let colour: ReturnType<typeof colourOf> = { grey: false, transfer: 'srgb', primaries: 'bt709' };
    if (bits.take(1) === 0) {
      if (bits.take(1) === 1) {
        bits.take(3);
        if (bits.take(1) === 1) sizeOf(bits);
        if (bits.take(1) === 1) throw new NotRead('it has a preview, whose header Shale cannot read');
        if (bits.take(1) === 1) tick = tickOf(bits);
      }
      sample = sampleOf(bits);
      bits.take(1);
      const extra = Array.from({ length: bits.choose([0, 0], [1, 0], [2, 4], [1, 12]) }, () => extraChannel(bits));
      alpha = extra.find(({ type }) => type === alphaChannel);
      bits.take(1);
      colour = colourOf(bits);
    }
    const { grey, transfer, primaries } = colour;
    const { pictures = 1, rate, delays } = tick ? await animationOf(file.path, tick) : ({} as Partial<Animation>);
    const colours = grey ? ['Y'] : ['R', 'G', 'B'];
    return {
      facts: {
        width,
        height,
        format: 'jxl',
        sample,
        channels: alpha ? [...colours, 'A'] : colours,
        hasAlpha: alpha !== undefined,
        ...{ transfer, primaries },
        ...(alpha && { alphaSays: alpha.associated ? 'premultiplied' : 'straight' }),
        ...(pictures > 1 ? { pictures, rate } : {}),
        more: delays ? [['Delays', `${delays[0]} to ${delays[1]} ms`]] : [],
      },
      dataAt: 0,
      cutShort: lacking(file.size, ends),
    };
  },
  async read(path, facts, picture) {
    refuseBeyondLibav(facts);
    const { sample } = facts;
    if ((facts.pictures ?? 1) > 1) return narrowed(await animatedPicture(path, picture), sample);
    const frame = await decodePacket(AV_CODEC_ID_JPEGXL, await readFile(path));
    try {
      return narrowed(imageOf(frame), sample);
    } finally {
      frame.free();
    }
  },
  async write(path, image, { lossless, quality, effort, transfer, primaries }) {
    const { width, height, channels, sample, data } = image;
    const format = encoderFormats[sample]![channels - 1]!;
    const bytes = Buffer.from(data.buffer, data.byteOffset, data.byteLength);
    const coded = await encodePacket(
      Codec.findEncoder(AV_CODEC_ID_JPEGXL)!,
      { width, height, format, bytes },
      {
        distance: lossless ? 0 : distanceOf(quality),
        effort,
      },
      { transfer: transferPoints[transfer] ?? unsaidPoint, primaries: primariesPoints[primaries] ?? unsaidPoint },
    );
    await writeFile(path, coded, { flag: 'wx' });
  },
} satisfies StillFormat;
