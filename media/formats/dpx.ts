import { readFile } from 'node:fs/promises';
import {
  AV_CODEC_ID_DPX,
  AV_PIX_FMT_GBRP10BE,
  AV_PIX_FMT_GBRP10LE,
  AV_PIX_FMT_RGB24,
  type AVPixelFormat,
} from 'node-av';
import { makeRate, parseRate, type Facts, type Image, type Rate } from '@shale/core';
import { decodePacket, tightRows } from '../video/libav.ts';
import { aspectOf, lacking, refuseAbsurdSize, type StillFormat, type StillHeader } from './format.ts';

/** Offsets of the header's fields (SMPTE ST 268-1:2014, tables 1 to 5). */
const at = {
  dataOffset: 4,
  columns: 772,
  rows: 776,
  descriptor: 800,
  transfer: 801,
  colorimetric: 802,
  bits: 803,
  packing: 804,
  encoding: 806,
  aspectAcross: 1628,
  aspectDown: 1632,
  sequenceLength: 1716,
  filmRate: 1724,
  timecode: 1920,
  tvRate: 1940,
  genericBytes: 1664,
  bytes: 2048,
};

/** Codes of transfer and colorimetric characteristic (table 5B). */
const transfers: Record<number, string> = { 1: 'film-log', 2: 'linear', 3: 'film-log', 5: 'bt709', 6: 'bt709' };
const primaries: Record<number, string> = { 5: 'bt709', 6: 'bt709' };

/** Samples of a pixel by the descriptor (table 1 of ST 268-1:2014, clause 5): grey, RGB, RGBA, ABGR. */
const descriptors: Record<number, string[]> = {
  6: ['Y'],
  50: ['R', 'G', 'B'],
  51: ['R', 'G', 'B', 'A'],
  52: ['A', 'B', 'G', 'R'],
};

const undefinedWord = 0xffffffff;

/** Eight digits of four bits each, hours first (SMPTE ST 12-1, in ST 268-1 field 52). */
function timecodeOf(word: number): string | undefined {
  const digits = word.toString(16).padStart(8, '0');
  if (word === undefinedWord || word === 0 || !/^\d{8}$/.test(digits)) return undefined;
  return digits.match(/../g)!.join(':');
}

/** Bytes of the picture, rows padded to 32 bits; uncompressed. */
function pictureBytes(width: number, height: number, samples: number, bits: number, packing: number): number {
  const perRow = width * samples;
  if (packing === 0) return Math.ceil((perRow * bits) / 32) * 4 * height;
  if (bits === 10) return Math.ceil(perRow / 3) * 4 * height;
  const bytes = bits === 8 ? 1 : 2;
  return Math.ceil((perRow * bytes) / 4) * 4 * height;
}

function rateOf(value: number): Rate | undefined {
  if (!(value > 0 && value < 1000)) return undefined;
  // The field is a 32-bit float: the 1000/1001 rates come back as their nearest decimal.
  return Number.isInteger(value) ? makeRate(value, 1) : parseRate(value.toFixed(3));
}

const dpxAspect = (across: number, down: number): Facts['pixelAspect'] =>
  across === undefinedWord || down === undefinedWord || down === 0 ? undefined : aspectOf(across / down);

/** DPX, read only: RGB of 8 and 10 bits. */
export const dpx: StillFormat = {
  id: 'dpx',
  recognises: (head) => /^(SDPX|XPDS)$/.test(head.toString('latin1', 0, 4)),
  header(file): StillHeader {
    const head = file.need(0, Math.min(at.bytes, Math.max(at.genericBytes, file.size)));
    const big = head.toString('latin1', 0, 4) === 'SDPX';
    const word = (offset: number) => (big ? head.readUInt32BE(offset) : head.readUInt32LE(offset));
    const short = (offset: number) => (big ? head.readUInt16BE(offset) : head.readUInt16LE(offset));
    const real = (offset: number) => (big ? head.readFloatBE(offset) : head.readFloatLE(offset));
    const width = word(at.columns);
    const height = word(at.rows);
    refuseAbsurdSize(width, height);
    const bits = head[at.bits]!;
    if (![8, 10, 12, 16].includes(bits)) throw new Error(`its depth of ${bits} bits is not one that Shale knows`);
    const channels = descriptors[head[at.descriptor]!];
    if (!channels)
      throw new Error(`its elements (descriptor ${head[at.descriptor]}) are not ones that this version reads`);
    const dataAt = word(at.dataOffset);
    const runLength = short(at.encoding) === 1;
    const needs = dataAt + pictureBytes(width, height, channels.length, bits, short(at.packing));
    // The industry headers may be left out: what would be theirs is picture data then.
    const industry = dataAt >= at.bytes;
    const length = industry ? word(at.sequenceLength) : undefinedWord;
    return {
      facts: {
        width,
        height,
        format: 'dpx',
        sample: `u${bits as 8 | 10 | 12 | 16}`,
        channels,
        hasAlpha: channels.includes('A'),
        transfer: transfers[head[at.transfer]!],
        primaries: primaries[head[at.colorimetric]!],
        rate: industry ? (rateOf(real(at.filmRate)) ?? rateOf(real(at.tvRate))) : undefined,
        timecode: industry ? timecodeOf(word(at.timecode)) : undefined,
        pixelAspect: dpxAspect(word(at.aspectAcross), word(at.aspectDown)),
        sequenceLength: length > 1 && length <= 10_000_000 ? length : undefined,
        more: [],
      },
      dataAt: Math.min(dataAt, file.size),
      cutShort: runLength ? undefined : lacking(file.size, needs),
    };
  },
  async read(path): Promise<Image> {
    const frame = await decodePacket(AV_CODEC_ID_DPX, await readFile(path));
    try {
      const { width, height } = frame;
      const format = frame.format as AVPixelFormat;
      if (format === AV_PIX_FMT_RGB24) {
        return {
          width,
          height,
          channels: 3,
          sample: 'u8',
          data: tightRows(frame.data![0]!, frame.linesize[0]!, width * 3, height),
        };
      }
      if (format !== AV_PIX_FMT_GBRP10LE && format !== AV_PIX_FMT_GBRP10BE) {
        throw new Error('its pixel layout is not one that this version reads (RGB of 8 and 10 bits)');
      }
      const data = new Uint16Array(width * height * 3);
      // Planes come as green, blue, red.
      for (const [plane, channel] of [1, 2, 0].entries()) {
        const rows = tightRows(frame.data![plane]!, frame.linesize[plane]!, width * 2, height);
        if (format === AV_PIX_FMT_GBRP10BE) rows.swap16();
        const samples = new Uint16Array(rows.buffer, rows.byteOffset, width * height);
        for (let pixel = 0; pixel < samples.length; pixel += 1) data[pixel * 3 + channel] = samples[pixel]!;
      }
      return { width, height, channels: 3, sample: 'u10', data };
    } finally {
      frame.free();
    }
  },
};
