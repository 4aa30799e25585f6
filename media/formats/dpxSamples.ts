import { avGetPixFmtFromName, Frame } from 'node-av';
import type { Image } from '@shale/core';
import { Colouring, type Coding } from '../video/colouring.ts';
import { fillFrame } from '../video/libav.ts';

/** How the samples of an uncompressed element lie in its file (SMPTE ST 268-1:2014, clause 5 and annex C). */
export interface Samples {
  /** Whether words have their high byte first. */
  big: boolean;
  bits: number;
  /** 0 packed without gaps from the low end of each 32-bit word on; 1 filled, the gap at the low end; 2 filled, at the high end. */
  packing: number;
  dataAt: number;
  perRow: number;
  rows: number;
}

/** Bytes of a row: 10 bits, and whatever is packed, end on a whole word. */
function rowBytes({ bits, packing, perRow }: Samples): number {
  if (bits === 8 || bits === 16) return (perRow * bits) / 8;
  if (packing === 0) return Math.ceil((perRow * bits) / 32) * 4;
  return bits === 10 ? Math.ceil(perRow / 3) * 4 : perRow * 2;
}

/** All samples, row by row. @throws Error where the file ends before them */
export function samplesOf(bytes: Buffer, samples: Samples): Uint16Array {
  const { big, bits, packing, dataAt, perRow, rows } = samples;
  const each = rowBytes(samples);
  if (bytes.length < dataAt + each * rows) throw new Error('it ends within its picture');
  const short = (at: number) => (big ? bytes.readUInt16BE(at) : bytes.readUInt16LE(at));
  const word = (at: number) => (big ? bytes.readUInt32BE(at) : bytes.readUInt32LE(at));
  const mask = 2 ** bits - 1;
  const one = (row: number, at: number): number => {
    if (bits === 8) return bytes[row + at]!;
    if (bits === 16) return short(row + at * 2);
    if (packing === 0) {
      const bit = (at * bits) % 32;
      const from = row + Math.floor((at * bits) / 32) * 4;
      const low = word(from) >>> bit;
      return (bit + bits > 32 ? low | (word(from + 4) << (32 - bit)) : low) & mask;
    }
    const gap = packing === 1;
    if (bits === 12) return (short(row + at * 2) >> (gap ? 4 : 0)) & mask;
    return (word(row + Math.floor(at / 3) * 4) >>> ((2 - (at % 3)) * 10 + (gap ? 2 : 0))) & mask;
  };
  const found = new Uint16Array(perRow * rows);
  for (let row = 0; row < rows; row += 1)
    for (let at = 0; at < perRow; at += 1) found[row * perRow + at] = one(dataAt + row * each, at);
  return found;
}

/** Samples of one colour difference, light and the other, as their descriptors order them: for every pixel, or for two (4:2:2). */
export type Differences = '4:2:2' | '4:4:4';

/** Samples of a pixel, on the mean. */
export const perPixel = (differences: Differences): number => (differences === '4:2:2' ? 2 : 3);

/** A picture in RGB of light and colour differences, which stand as Cb Y Cr Y or as Cb Y Cr. 8 bits stay 8, others become 16. */
export async function fromDifferences(
  found: Uint16Array,
  { width, height, bits }: { width: number; height: number; bits: number },
  differences: Differences,
  coding: Coding,
): Promise<Image> {
  const pixels = width * height;
  const chroma = differences === '4:2:2' ? pixels / 2 : pixels;
  const light = differences === '4:2:2' ? 2 : 1;
  const planes = new (bits === 8 ? Uint8Array : Uint16Array)(pixels + 2 * chroma);
  for (let group = 0, at = 0; group < chroma; group += 1) {
    planes[pixels + group] = found[at++]!;
    planes[group * light] = found[at++]!;
    planes[pixels + chroma + group] = found[at++]!;
    if (light === 2) planes[group * 2 + 1] = found[at++]!;
  }
  const format = avGetPixFmtFromName(`yuv${differences.replaceAll(':', '')}p${bits === 8 ? '' : `${bits}le`}`);
  const frame = new Frame();
  const colouring = new Colouring(coding);
  try {
    fillFrame(frame, { width, height, format, bytes: Buffer.from(planes.buffer) });
    return await colouring.imageOf(frame);
  } finally {
    frame.free();
    await colouring.free();
  }
}
