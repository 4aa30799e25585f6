import type { AVPixelFormat, Frame } from 'node-av';
import {
  AV_PIX_FMT_ABGR,
  AV_PIX_FMT_BGR24,
  AV_PIX_FMT_BGRA,
  AV_PIX_FMT_GBRAP,
  AV_PIX_FMT_GBRAP10BE,
  AV_PIX_FMT_GBRAP10LE,
  AV_PIX_FMT_GBRAP12BE,
  AV_PIX_FMT_GBRAP12LE,
  AV_PIX_FMT_GBRAP16LE,
  AV_PIX_FMT_GBRP,
  AV_PIX_FMT_GBRP10BE,
  AV_PIX_FMT_GBRP10LE,
  AV_PIX_FMT_GBRP12BE,
  AV_PIX_FMT_GBRP12LE,
  AV_PIX_FMT_GBRP16LE,
  AV_PIX_FMT_GRAY10BE,
  AV_PIX_FMT_GRAY10LE,
  AV_PIX_FMT_GRAY12BE,
  AV_PIX_FMT_GRAY12LE,
  AV_PIX_FMT_GRAY16BE,
  AV_PIX_FMT_GRAY16LE,
  AV_PIX_FMT_GRAY8,
  AV_PIX_FMT_GRAYF32LE,
  AV_PIX_FMT_RGB24,
  AV_PIX_FMT_RGB48BE,
  AV_PIX_FMT_RGB48LE,
  AV_PIX_FMT_RGBA,
  AV_PIX_FMT_RGBA64BE,
  AV_PIX_FMT_RGBA64LE,
  AV_PIX_FMT_RGBAF32LE,
  AV_PIX_FMT_RGBF32LE,
  AV_PIX_FMT_YA16BE,
  AV_PIX_FMT_YA16LE,
  AV_PIX_FMT_YA8,
} from 'node-av/constants';
import { makeSamples, type Image, type SampleFormat } from '@shale/core';
import { roomFor } from '../room.ts';
import { copyRows, tightRows } from './libav.ts';

/** How a pixel format of the library lies in memory. */
interface Layout {
  sample: SampleFormat;
  channels: Image['channels'];
  /** High byte first. */
  big?: boolean;
  /** A plane a channel: which channel each plane holds. Absent where pixels are interleaved. */
  planes?: readonly number[];
  /** Interleaved: which channel each sample of a pixel is; absent where they stand in order. */
  order?: readonly number[];
}

const gbr = [1, 2, 0];
const gbra = [1, 2, 0, 3];

const layouts = new Map<AVPixelFormat, Layout>([
  [AV_PIX_FMT_GRAY8, { sample: 'u8', channels: 1 }],
  [AV_PIX_FMT_YA8, { sample: 'u8', channels: 2 }],
  [AV_PIX_FMT_RGB24, { sample: 'u8', channels: 3 }],
  [AV_PIX_FMT_BGR24, { sample: 'u8', channels: 3, order: [2, 1, 0] }],
  [AV_PIX_FMT_RGBA, { sample: 'u8', channels: 4 }],
  [AV_PIX_FMT_BGRA, { sample: 'u8', channels: 4, order: [2, 1, 0, 3] }],
  [AV_PIX_FMT_ABGR, { sample: 'u8', channels: 4, order: [3, 2, 1, 0] }],
  [AV_PIX_FMT_GRAY10LE, { sample: 'u10', channels: 1 }],
  [AV_PIX_FMT_GRAY10BE, { sample: 'u10', channels: 1, big: true }],
  [AV_PIX_FMT_GRAY12LE, { sample: 'u12', channels: 1 }],
  [AV_PIX_FMT_GRAY12BE, { sample: 'u12', channels: 1, big: true }],
  [AV_PIX_FMT_GRAY16LE, { sample: 'u16', channels: 1 }],
  [AV_PIX_FMT_GRAY16BE, { sample: 'u16', channels: 1, big: true }],
  [AV_PIX_FMT_YA16LE, { sample: 'u16', channels: 2 }],
  [AV_PIX_FMT_YA16BE, { sample: 'u16', channels: 2, big: true }],
  [AV_PIX_FMT_RGB48LE, { sample: 'u16', channels: 3 }],
  [AV_PIX_FMT_RGB48BE, { sample: 'u16', channels: 3, big: true }],
  [AV_PIX_FMT_RGBA64LE, { sample: 'u16', channels: 4 }],
  [AV_PIX_FMT_RGBA64BE, { sample: 'u16', channels: 4, big: true }],
  [AV_PIX_FMT_GBRP, { sample: 'u8', channels: 3, planes: gbr }],
  [AV_PIX_FMT_GBRAP, { sample: 'u8', channels: 4, planes: gbra }],
  [AV_PIX_FMT_GBRP16LE, { sample: 'u16', channels: 3, planes: gbr }],
  [AV_PIX_FMT_GBRAP16LE, { sample: 'u16', channels: 4, planes: gbra }],
  [AV_PIX_FMT_GBRP10LE, { sample: 'u10', channels: 3, planes: gbr }],
  [AV_PIX_FMT_GBRP10BE, { sample: 'u10', channels: 3, planes: gbr, big: true }],
  [AV_PIX_FMT_GBRP12LE, { sample: 'u12', channels: 3, planes: gbr }],
  [AV_PIX_FMT_GBRP12BE, { sample: 'u12', channels: 3, planes: gbr, big: true }],
  [AV_PIX_FMT_GBRAP10LE, { sample: 'u10', channels: 4, planes: gbra }],
  [AV_PIX_FMT_GBRAP10BE, { sample: 'u10', channels: 4, planes: gbra, big: true }],
  [AV_PIX_FMT_GBRAP12LE, { sample: 'u12', channels: 4, planes: gbra }],
  [AV_PIX_FMT_GBRAP12BE, { sample: 'u12', channels: 4, planes: gbra, big: true }],
  [AV_PIX_FMT_GRAYF32LE, { sample: 'f32', channels: 1 }],
  [AV_PIX_FMT_RGBF32LE, { sample: 'f32', channels: 3 }],
  [AV_PIX_FMT_RGBAF32LE, { sample: 'f32', channels: 4 }],
]);

const bytesOf = (sample: SampleFormat): number => (sample === 'u8' ? 1 : sample === 'f32' ? 4 : 2);

function samplesOf(bytes: Buffer, { sample, big }: Layout): Image['data'] {
  if (sample === 'u8') return bytes;
  const length = bytes.length / bytesOf(sample);
  if (sample === 'f32') return new Float32Array(bytes.buffer, bytes.byteOffset, length);
  if (big) bytes.swap16();
  return new Uint16Array(bytes.buffer, bytes.byteOffset, length);
}

/** Whether a frame's pixel format is one that {@link imageOf} takes. */
export const isPlain = (frame: Pick<Frame, 'format'>): boolean => layouts.has(frame.format as AVPixelFormat);

/** The samples and channels as which {@link imageOf} gives a pixel format; undefined where it does not take it. */
export const plainLayout = (format: AVPixelFormat): Pick<Image, 'sample' | 'channels'> | undefined =>
  layouts.get(format);

/**
 * A decoded frame as a picture, bit for bit. @throws Error where its pixel format is none of ours, or its rows are stored from
 * the bottom
 */
export function imageOf(frame: Frame): Image {
  const layout = layouts.get(frame.format as AVPixelFormat);
  if (!layout) throw new Error('its pixel layout cannot be read by this version');
  const { width, height } = frame;
  const { sample, channels, planes, order } = layout;
  const strideOf = (at: number) => {
    const stride = frame.linesize[at]!;
    if (stride < 0) throw new Error('its rows are stored from the bottom in a way that this version does not read');
    return stride;
  };
  const plane = (at: number, samples: number) =>
    samplesOf(tightRows(frame.data![at]!, strideOf(at), width * samples * bytesOf(sample), height), layout);
  if (!planes && !order) {
    const data = roomFor(sample, width * height * channels);
    const bytes = Buffer.from(data.buffer, 0, data.byteLength);
    copyRows(frame.data![0]!, strideOf(0), width * channels * bytesOf(sample), height, bytes);
    if (layout.big) bytes.swap16();
    return { width, height, channels, sample, data };
  }
  const data = makeSamples(sample, width * height * channels);
  if (planes) {
    for (const [at, channel] of planes.entries()) {
      const samples = plane(at, 1);
      for (let pixel = 0, to = channel; pixel < samples.length; pixel += 1, to += channels) data[to] = samples[pixel]!;
    }
  } else {
    const source = plane(0, channels);
    for (let pixel = 0; pixel < source.length; pixel += channels)
      for (let at = 0; at < channels; at += 1) data[pixel + order![at]!] = source[pixel + at]!;
  }
  return { width, height, channels, sample, data };
}
