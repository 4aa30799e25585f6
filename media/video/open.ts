import { open } from 'node:fs/promises';
import { Codec, CodecContext, Dictionary, FormatContext, type Stream } from 'node-av';
import { AV_DISPOSITION_ATTACHED_PIC, AVERROR_EOF, AVMEDIA_TYPE_AUDIO, AVMEDIA_TYPE_VIDEO } from 'node-av/constants';
import { makeRate, ShaleError, type Rate } from '@shale/core';
import { NotRead, refusalOf } from '../notRead.ts';
import { nameOfFile, placeOfFile } from '../heldFiles.ts';
import { check } from './libav.ts';

/** What cannot be read, by the file's name. */
export const damaged = (path: string, why: string): ShaleError =>
  new ShaleError({
    code: 'damaged-file',
    fact: `${nameOfFile(path)} cannot be read: ${why}.`,
    wayOut: 'Ask for the file again, or upload it again.',
    subject: placeOfFile(path),
  });

/** An error as it is told: what is not read is not called damaged. */
export function told(path: string, error: unknown): ShaleError {
  if (error instanceof ShaleError) return error;
  if (error instanceof NotRead) return refusalOf(path, error);
  return damaged(path, (error as Error).message);
}

/** Bytes of a box's head (ISO/IEC 14496-12, 4.2). */
const boxHead = 16;

/** Whether a file is of ISO's base media format (MP4, MOV) and lacks its index, which is written last. */
async function lacksIndex(path: string): Promise<boolean> {
  const file = await open(path);
  try {
    const head = Buffer.alloc(boxHead);
    let found = false;
    for (let at = 0; ;) {
      const { bytesRead } = await file.read(head, 0, boxHead, at);
      if (bytesRead < 8) return found;
      const type = head.toString('latin1', 4, 8);
      if (!/^[a-z ]{4}$/.test(type) || type === 'moov') return false;
      found ||= type === 'ftyp' || type === 'mdat';
      const short = head.readUInt32BE(0);
      const size = short === 1 && bytesRead === boxHead ? Number(head.readBigUInt64BE(8)) : short;
      if (size === 0) return found;
      if (size < 8) return false;
      at += size;
    }
  } finally {
    await file.close();
  }
}

/** Opens a file and reads what its streams are. The caller closes it. @throws ShaleError naming the file */
export async function openInput(path: string): Promise<FormatContext> {
  const input = new FormatContext();
  try {
    check(await input.openInput(path, null, Dictionary.fromObject({})), 'opening it');
    check(await input.findStreamInfo(), 'reading its streams');
    return input;
  } catch (error) {
    await input.closeInput();
    if (await lacksIndex(path).catch(() => false))
      throw damaged(path, 'it has no index, which is written last: its recording or copying was interrupted');
    throw told(path, error);
  }
}

/** Runs work over an opened file and closes it whatever happens. @throws ShaleError naming the file */
export async function withFile<T>(path: string, work: (input: FormatContext) => Promise<T>): Promise<T> {
  const input = await openInput(path);
  try {
    return await work(input);
  } catch (error) {
    throw told(path, error);
  } finally {
    await input.closeInput();
  }
}

/**
 * The stream of pictures or of sound that a player would take.
 * @param nth which of several, from 1; null for the one that a player would
 */
export function streamOf(input: FormatContext, type: 'pictures' | 'sound', nth: number | null = null): Stream {
  if (nth !== null) {
    const kind = type === 'pictures' ? AVMEDIA_TYPE_VIDEO : AVMEDIA_TYPE_AUDIO;
    const all = input.streams.filter(({ codecpar }) => codecpar.codecType === kind);
    if (all[nth - 1]) return all[nth - 1]!;
    throw new NotRead(
      `it holds ${all.length} ${all.length === 1 ? 'stream' : 'streams'} of ${type}, but number ${nth} is asked for`,
      'Choose an existing one.',
    );
  }
  const index = input.findBestStream(type === 'pictures' ? AVMEDIA_TYPE_VIDEO : AVMEDIA_TYPE_AUDIO);
  const stream = input.streams.find((one) => one.index === index);
  // One that tells of no stream at all is cut in its header.
  if (!stream && input.streams.length === 0) throw new Error('it holds neither picture nor sound');
  if (!stream && type === 'pictures')
    throw new NotRead(
      input.streams.some(({ codecpar }) => codecpar.codecType === AVMEDIA_TYPE_AUDIO)
        ? 'it has sound but no picture'
        : 'it holds no picture',
      'Choose the file that holds the picture; a sound can be added to a video.',
    );
  if (!stream) throw new NotRead('it holds no sound', 'Choose a file with sound.');
  return stream;
}

/** The streams of moving pictures, by the names under which those beside the main one are layers; the picture of a cover is none. */
export function pictureStreams(input: FormatContext): Map<string, Stream> {
  const all = input.streams.filter(
    ({ codecpar, disposition }) =>
      codecpar.codecType === AVMEDIA_TYPE_VIDEO && (disposition & AV_DISPOSITION_ATTACHED_PIC) === 0,
  );
  return new Map(all.map((stream, at) => [`picture stream ${at + 1}`, stream]));
}

/** The pictures that are meant by a layer, the main ones where it is null. @throws NotRead where there is no such stream */
export function picturesOf(input: FormatContext, layer: string | null): Stream {
  if (layer === null) return streamOf(input, 'pictures');
  const streams = pictureStreams(input);
  const found = streams.get(layer);
  if (found) return found;
  throw new NotRead(`it has no "${layer}"`, `It has ${[...streams.keys()].join(', ')}.`);
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
  if (!codec) {
    const tag = Buffer.alloc(4);
    tag.writeUInt32LE(Number(stream.codecpar.codecTag) >>> 0);
    const called = tag.toString('latin1');
    throw called === 'encv' || called === 'enca'
      ? new NotRead('it is encrypted', 'Ask for a copy without protection.')
      : new NotRead(
          `Shale cannot decode its codec${/^[\w ]{4}$/.test(called) ? ` ("${called}")` : ''}`,
          'Ask for an export as ProRes, H.264 or another documented codec.',
        );
  }
  return codec;
}

/** A decoder that stops at every error, opened. @param threads on which it works */
export async function openDecoder(stream: Stream, threads: number): Promise<CodecContext> {
  const context = new CodecContext();
  try {
    context.allocContext3(decoderOf(stream));
    check(context.parametersToContext(stream.codecpar), 'setting the decoder up');
    context.pktTimebase = stream.timeBase;
    // Some encoders of sound write checksums that are wrong; of pictures they are believed.
    const detects = stream.codecpar.codecType === AVMEDIA_TYPE_VIDEO ? 'crccheck+explode' : 'explode';
    const options = Dictionary.fromObject({ err_detect: detects, threads: String(threads) });
    check(await context.open2(null, options), 'opening the decoder');
    return context;
  } catch (error) {
    context.freeContext();
    throw error;
  }
}

export const isEnd = (code: number): boolean => code === AVERROR_EOF;
