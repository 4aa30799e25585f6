import { open, readFile } from 'node:fs/promises';
import {
  AV_CODEC_ID_DPX,
  AV_PIX_FMT_GBRP10BE,
  AV_PIX_FMT_GBRP10LE,
  AV_PIX_FMT_RGB24,
  type AVPixelFormat,
} from 'node-av';
import { makeRate, parseRate, type Facts, type Image, type Rate } from '@shale/core';
import { decodePacket, tightRows } from '../video/libav.ts';
import { refuseAbsurdSize, type StillFormat } from './format.ts';

/** Offsets of the header's fields (SMPTE ST 268-1:2014, tables 1 to 5). */
const at = {
  columns: 772,
  rows: 776,
  transfer: 801,
  bits: 803,
  timecode: 1920,
  filmRate: 1724,
  tvRate: 1940,
  bytes: 2048,
};

const transfers: Record<number, string> = { 1: 'film-log', 2: 'linear', 3: 'film-log', 5: 'bt709', 6: 'bt709' };

function rateOf(value: number): Rate | undefined {
  if (!(value > 0 && value < 1000)) return undefined;
  // The field is a 32-bit float: the 1000/1001 rates come back as their nearest decimal.
  return Number.isInteger(value) ? makeRate(value, 1) : parseRate(value.toFixed(3));
}

/** DPX, read only: RGB of 8 and 10 bits. */
export const dpx: StillFormat = {
  id: 'dpx',
  recognises: (head) => /^(SDPX|XPDS)$/.test(head.toString('latin1', 0, 4)),
  async probe(path): Promise<Facts> {
    const file = await open(path, 'r');
    const head = Buffer.alloc(at.bytes);
    try {
      const { bytesRead } = await file.read(head, 0, at.bytes, 0);
      if (bytesRead < at.bytes) throw new Error('it ends within its header');
    } finally {
      await file.close();
    }
    const big = head.toString('latin1', 0, 4) === 'SDPX';
    const word = (offset: number) => (big ? head.readUInt32BE(offset) : head.readUInt32LE(offset));
    const real = (offset: number) => (big ? head.readFloatBE(offset) : head.readFloatLE(offset));
    const width = word(at.columns);
    const height = word(at.rows);
    refuseAbsurdSize(width, height);
    const bits = head[at.bits]!;
    if (![8, 10, 12, 16].includes(bits)) throw new Error(`its depth of ${bits} bits is not one that Shale knows`);
    return {
      width,
      height,
      format: 'dpx',
      sample: `u${bits as 8 | 10 | 12 | 16}`,
      channels: ['R', 'G', 'B'],
      hasAlpha: false,
      transfer: transfers[head[at.transfer]!],
      rate: rateOf(real(at.filmRate)) ?? rateOf(real(at.tvRate)),
      more: [],
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
