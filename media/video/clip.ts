import { basename } from 'node:path';
import {
  AV_PIX_FMT_RGBA,
  AVERROR_EAGAIN,
  AVMEDIA_TYPE_AUDIO,
  AVMEDIA_TYPE_VIDEO,
  avGetPixFmtName,
  Codec,
  CodecContext,
  Dictionary,
  FormatContext,
  Frame,
  Packet,
  SoftwareScaleContext,
  SWS_BICUBIC,
  type AVPixelFormat,
  type Stream,
} from 'node-av';
import { makeRate, ShaleError, type Facts, type Image, type Rate, type SampleFormat } from '@shale/core';
import { primariesByCode, refuseAbsurdSize, transferByCode } from '../formats/format.ts';
import { imageOf } from './frameImage.ts';
import { check, tightRows } from './libav.ts';

/** Runs work over an opened file and closes it whatever happens. @throws ShaleError naming the file */
async function withFile<T>(path: string, work: (input: FormatContext) => Promise<T>): Promise<T> {
  const input = new FormatContext();
  try {
    check(await input.openInput(path, null, Dictionary.fromObject({})), 'opening it');
    check(await input.findStreamInfo(), 'reading its streams');
    return await work(input);
  } catch (error) {
    if (error instanceof ShaleError) throw error;
    throw new ShaleError({
      code: 'damaged-file',
      fact: `${basename(path)} cannot be read: ${(error as Error).message}.`,
      wayOut: 'Have the file made again, or bring it in anew.',
      subject: path,
    });
  } finally {
    await input.closeInput();
  }
}

function streamOf(input: FormatContext, type: typeof AVMEDIA_TYPE_VIDEO | typeof AVMEDIA_TYPE_AUDIO): Stream {
  const index = input.findBestStream(type);
  const stream = input.streams.find((one) => one.index === index);
  if (!stream) throw new Error(type === AVMEDIA_TYPE_VIDEO ? 'it holds no picture' : 'it holds no sound');
  return stream;
}

const fraction = (num: number | bigint, den: number | bigint): Rate | undefined => {
  const [n, d] = [Number(num), Number(den)];
  return n > 0 && d > 0 && Number.isSafeInteger(n) ? makeRate(n, d) : undefined;
};

/** VP9 keeps its alpha only through the decoder of that name; the default one drops it without a word. */
function decoderOf(stream: Stream): Codec {
  const preferred = Codec.findDecoder(stream.codecpar.codecId);
  const codec = preferred?.name?.startsWith('vp9')
    ? (Codec.findDecoderByName('libvpx-vp9' as never) ?? preferred)
    : preferred;
  if (!codec) throw new Error('no decoder for its pictures');
  return codec;
}

/** Sample depth and alpha by the pixel format's name, as `yuva444p12le` tells both. */
function layoutOf(name: string): { sample: SampleFormat; hasAlpha: boolean } {
  const bits =
    /(?:p|gray|x|f)(9|10|12|14|16)(?:le|be)?$/.exec(name)?.[1] ?? (/(48|64)(le|be)$/.test(name) ? '16' : '8');
  const sample = ({ 8: 'u8', 9: 'u10', 10: 'u10', 12: 'u12', 14: 'u16', 16: 'u16' } as const)[Number(bits) as 8];
  return { sample, hasAlpha: /yuva|rgba|bgra|argb|abgr|gbrap|ya8|ya16|^pal8/.test(name) };
}

/** What a clip's headers say; the count is the container's own, else worked out from length and rate. */
export function probeClip(path: string): Promise<Facts> {
  return withFile(path, async (input) => {
    const stream = streamOf(input, AVMEDIA_TYPE_VIDEO);
    const { width, height } = stream.codecpar;
    refuseAbsurdSize(width, height);
    const { num: across, den: down } = stream.codecpar.sampleAspectRatio;
    const decoder = decoderOf(stream);
    const pixels = avGetPixFmtName(stream.codecpar.format as AVPixelFormat) ?? '';
    const rate = fraction(stream.avgFrameRate.num, stream.avgFrameRate.den);
    const { num, den } = stream.timeBase;
    const seconds =
      stream.duration > 0n ? fraction(stream.duration * BigInt(num), den) : fraction(input.duration, 1_000_000);
    const counted = Number(stream.nbFrames);
    const frames =
      counted > 0 ? counted : rate && seconds ? Math.round((seconds.num * rate.num) / (seconds.den * rate.den)) : 0;
    const hasSound = input.streams.some((one) => one.codecpar.codecType === AVMEDIA_TYPE_AUDIO);
    const { sample, hasAlpha } = layoutOf(pixels);
    const alpha = hasAlpha || stream.metadata?.get('alpha_mode') === '1';
    return {
      width,
      height,
      format: decoder.name ?? 'video',
      sample,
      channels: alpha ? ['R', 'G', 'B', 'A'] : ['R', 'G', 'B'],
      hasAlpha: alpha,
      transfer: transferByCode(stream.codecpar.colorTrc),
      primaries: primariesByCode(stream.codecpar.colorPrimaries),
      pixelAspect: fraction(across, down),
      rate,
      seconds,
      frames,
      more: [
        ['Codec', decoder.longName ?? ''],
        ['Pixels', pixels],
        ['Sound', hasSound ? 'yes' : 'none'],
      ],
    };
  });
}

/** Length and layout of a sound, as facts for its row. */
export function probeSound(path: string): Promise<{ seconds?: Rate; more: [string, string][] }> {
  return withFile(path, async (input) => {
    const stream = streamOf(input, AVMEDIA_TYPE_AUDIO);
    const { num, den } = stream.timeBase;
    const seconds =
      stream.duration > 0n ? fraction(stream.duration * BigInt(num), den) : fraction(input.duration, 1_000_000);
    const { sampleRate, channels } = stream.codecpar;
    return {
      seconds,
      more: [['Sound', `${sampleRate} Hz, ${channels === 1 ? 'one channel' : `${channels} channels`}`]],
    };
  });
}

/** The first picture of a clip in display order, as 8-bit RGBA. */
export const readFirstFrame = (path: string): Promise<Image> => nthFrame(path, 0, toRgba);

/** A picture of an animation in its own samples, each laid over those before it. @param at from 0 */
export const readPicture = (path: string, at: number): Promise<Image> => nthFrame(path, at, (frame) => imageOf(frame));

/** The picture at a place in display order, found by decoding all before it. */
function nthFrame<T>(path: string, at: number, take: (frame: Frame) => T | Promise<T>): Promise<T> {
  return withFile(path, async (input) => {
    const stream = streamOf(input, AVMEDIA_TYPE_VIDEO);
    const context = new CodecContext();
    const packet = new Packet();
    const frame = new Frame();
    let before = at;
    try {
      const decoder = decoderOf(stream);
      context.allocContext3(decoder);
      check(context.parametersToContext(stream.codecpar), 'setting the decoder up');
      check(
        await context.open2(decoder, Dictionary.fromObject({ err_detect: 'explode', threads: '1' })),
        'opening the decoder',
      );
      packet.alloc();
      frame.alloc();
      for (;;) {
        const read = await input.readFrame(packet);
        if (read >= 0 && packet.streamIndex !== stream.index) {
          packet.unref();
          continue;
        }
        check(await context.sendPacket(read < 0 ? null : packet), 'decoding');
        packet.unref();
        const code = await context.receiveFrame(frame);
        if (code === AVERROR_EAGAIN && read >= 0) continue;
        check(code, 'decoding');
        if (before === 0) return await take(frame);
        before -= 1;
        frame.unref();
      }
    } finally {
      frame.free();
      packet.free();
      context.freeContext();
    }
  });
}

async function toRgba(frame: Frame): Promise<Image> {
  const { width, height } = frame;
  const scaler = new SoftwareScaleContext();
  const result = new Frame();
  try {
    scaler.getContext(width, height, frame.format as AVPixelFormat, width, height, AV_PIX_FMT_RGBA, SWS_BICUBIC);
    result.alloc();
    result.width = width;
    result.height = height;
    result.format = AV_PIX_FMT_RGBA;
    check(result.getBuffer(0), 'taking memory for a picture');
    check(await scaler.scaleFrame(result, frame), 'turning it to RGB');
    return {
      width,
      height,
      channels: 4,
      sample: 'u8',
      data: tightRows(result.data![0]!, result.linesize[0]!, width * 4, height),
    };
  } finally {
    result.free();
    scaler.freeContext();
  }
}
