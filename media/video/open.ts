import { basename } from 'node:path';
import {
  AVERROR_EOF,
  AVMEDIA_TYPE_AUDIO,
  AVMEDIA_TYPE_VIDEO,
  Codec,
  CodecContext,
  Dictionary,
  FormatContext,
  type Stream,
} from 'node-av';
import { makeRate, ShaleError, type Rate } from '@shale/core';
import { check } from './libav.ts';

/** What cannot be read, by the file's name. */
export const damaged = (path: string, why: string): ShaleError =>
  new ShaleError({
    code: 'damaged-file',
    fact: `${basename(path)} cannot be read: ${why}.`,
    wayOut: 'Have the file made again, or bring it in anew.',
    subject: path,
  });

/** Opens a file and reads what its streams are. The caller closes it. @throws ShaleError naming the file */
export async function openInput(path: string): Promise<FormatContext> {
  const input = new FormatContext();
  try {
    check(await input.openInput(path, null, Dictionary.fromObject({})), 'opening it');
    check(await input.findStreamInfo(), 'reading its streams');
    return input;
  } catch (error) {
    await input.closeInput();
    if (error instanceof ShaleError) throw error;
    throw damaged(path, (error as Error).message);
  }
}

/** Runs work over an opened file and closes it whatever happens. @throws ShaleError naming the file */
export async function withFile<T>(path: string, work: (input: FormatContext) => Promise<T>): Promise<T> {
  const input = await openInput(path);
  try {
    return await work(input);
  } catch (error) {
    if (error instanceof ShaleError) throw error;
    throw damaged(path, (error as Error).message);
  } finally {
    await input.closeInput();
  }
}

/** The stream of pictures or of sound that a player would take. */
export function streamOf(input: FormatContext, type: 'pictures' | 'sound'): Stream {
  const index = input.findBestStream(type === 'pictures' ? AVMEDIA_TYPE_VIDEO : AVMEDIA_TYPE_AUDIO);
  const stream = input.streams.find((one) => one.index === index);
  if (!stream) throw new Error(type === 'pictures' ? 'it holds no picture' : 'it holds no sound');
  return stream;
}

/** A fraction above 0 in lowest terms; undefined where it is none. */
export function fraction(num: number | bigint, den: number | bigint): Rate | undefined {
  const [n, d] = [Number(num), Number(den)];
  return n > 0 && d > 0 && Number.isSafeInteger(n) ? makeRate(n, d) : undefined;
}

/** VP9 keeps its alpha only through the decoder of that name; the default one drops it without a word. */
export function decoderOf(stream: Stream): Codec {
  const preferred = Codec.findDecoder(stream.codecpar.codecId);
  const hasAlpha = stream.metadata?.get('alpha_mode') === '1';
  const codec =
    hasAlpha && preferred?.name?.startsWith('vp')
      ? (Codec.findDecoderByName(`libvpx${preferred.name === 'vp9' ? '-vp9' : ''}` as never) ?? preferred)
      : preferred;
  if (!codec) throw new Error('there is no decoder for its pictures: it may be encrypted, or of a codec of its maker');
  return codec;
}

/** A decoder that stops at every error, opened. @param threads on which it works */
export async function openDecoder(stream: Stream, threads: number): Promise<CodecContext> {
  const context = new CodecContext();
  try {
    context.allocContext3(decoderOf(stream));
    check(context.parametersToContext(stream.codecpar), 'setting the decoder up');
    context.pktTimebase = stream.timeBase;
    const options = Dictionary.fromObject({ err_detect: 'explode', threads: String(threads) });
    check(await context.open2(null, options), 'opening the decoder');
    return context;
  } catch (error) {
    context.freeContext();
    throw error;
  }
}

export const isEnd = (code: number): boolean => code === AVERROR_EOF;
