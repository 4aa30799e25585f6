import type { AVPixelFormat, FormatContext, Frame, Stream } from 'node-av';
import { AV_FRAME_FLAG_INTERLACED, AV_FRAME_FLAG_TOP_FIELD_FIRST, AVMEDIA_TYPE_AUDIO } from 'node-av/constants';
import {
  clipTimes,
  plural,
  ShaleError,
  weightParts,
  type ClipFacts,
  type ClipTimes,
  type Facts,
  type Image,
  type Rate,
} from '@shale/core';
import { asksToBeShown, primariesByCode, refuseAbsurdSize, shownRow, transferByCode } from '../formats/format.ts';
import { indexOf, type ClipIndex } from './clipIndex.ts';
import { ClipReader } from './clipReader.ts';
import { clipTraits, mirrorOf } from './clipTraits.ts';
import { givenAs, layoutOf } from './colouring.ts';
import { seenFields } from './fields.ts';
import { decoderOf, fraction, pictureStreams, streamOf, withFile } from './open.ts';
import { refuseCutWave } from './waveEnd.ts';

/** Pictures that are decoded when a clip is probed: whether they come as the packets say, and what their fields are like. */
const decoded = 48;

/** What a clip's streams and packets say, and what its first pictures do. */
export interface ProbedClip {
  facts: Facts;
  /** Mean bytes of a picture in equal parts of the clip. */
  weights: number[];
  /** Why none of its pictures can be read, where that is so. */
  problem?: ShaleError;
}

/** Reads a clip's headers and all its packets, and decodes its first pictures. @throws ShaleError naming the file */
export function probeClip(path: string): Promise<ProbedClip> {
  return withFile(path, async (input) => {
    const stream = streamOf(input, 'pictures');
    const { codecpar } = stream;
    refuseAbsurdSize(codecpar.width, codecpar.height);
    const decoder = decoderOf(stream);
    const traits = clipTraits(stream);
    const mirror = mirrorOf(stream);
    const index = await indexOf(path);
    const base = { num: stream.timeBase.num, den: stream.timeBase.den };
    const said = fraction(stream.avgFrameRate.num, stream.avgFrameRate.den);
    const look = await lookAtFirst(path, index);
    const times: ClipTimes = index.timed
      ? clipTimes(index.times, index.last, base, said)
      : { rate: said, variable: false };
    const { bits, hasAlpha } = layoutOf(traits.pixels);
    const alpha = hasAlpha || stream.metadata?.get('alpha_mode') === '1';
    const count = index.times.length;
    const { sample, channels } = givenAs(codecpar.format as AVPixelFormat);
    const grey = channels < 3;
    const clip: ClipFacts = {
      codec: decoder.name?.replace(/^lib/, '') ?? 'video',
      container: input.iformat?.name?.split(',')[0] ?? '',
      ...traits,
      fields: look.fields,
      base,
      start: index.timed ? index.times[0]! : 0,
      variable: times.variable,
      ...(times.runs ? { runs: times.runs } : {}),
      ...(times.holes ? { holes: times.holes } : {}),
      counted: index.counted,
      ...(Number(stream.nbFrames) > 0 ? { said: Number(stream.nbFrames) } : {}),
      keys: index.keys.length,
      longestGroup: longestGroup(index),
      most: index.bytes.reduce((most, bytes) => Math.max(most, bytes), 0),
      bytes: index.bytes.reduce((sum, bytes) => sum + bytes, 0),
      cut: index.cut,
      leftOut: index.leftOut,
      torn: index.torn,
      ...(look.changesAt === undefined ? {} : { changesAt: look.changesAt }),
      ...(look.seen ? { seen: look.seen } : {}),
      ...soundOf(input),
    };
    const others = await othersOf(path, input, stream, count);
    const timecode = stream.metadata?.get('timecode') ?? input.metadata?.get('timecode');
    const facts: Facts = {
      ...uprightSize(codecpar, traits.turn),
      ...asksToBeShown(mirror),
      format: clip.codec,
      sample,
      channels: [...(grey ? ['Y'] : ['R', 'G', 'B']), ...(alpha ? ['A'] : [])],
      hasAlpha: alpha,
      transfer: transferByCode(codecpar.colorTrc),
      primaries: primariesByCode(codecpar.colorPrimaries),
      rate: times.rate,
      seconds: lengthOf(input, index, stream.duration, base, times.rate),
      frames: count,
      clip,
      ...(timecode ? { timecode } : {}),
      ...others.layers,
      more: [
        ...shownRow(mirror),
        ['Codec', decoder.longName ?? ''],
        ['Pixels', `${traits.pixels}, ${bits} bits`],
        [
          'Sound',
          clip.sound
            ? `${clip.sound.codec}, ${clip.sound.rate} Hz, ${clip.sound.channels === 1 ? 'one channel' : `${clip.sound.channels} channels`}`
            : 'none',
        ],
        ...others.rows,
      ],
    };
    return { facts, weights: weightsOf(index), ...(look.problem ? { problem: look.problem } : {}) };
  });
}

/**
 * What else a file has in pictures. Streams of the same size and number are layers of one source, as the two eyes of a stereo pair;
 * of others it is said that they are there.
 */
async function othersOf(path: string, input: FormatContext, main: Stream, count: number) {
  const alike: string[] = [];
  const rows: [string, string][] = [];
  for (const [name, { index, codecpar }] of pictureStreams(input)) {
    if (index === main.index) continue;
    const { width, height } = codecpar;
    const pictures = await indexOf(path, name).then(
      ({ times }) => times.length,
      () => 0,
    );
    if (pictures === count && width === main.codecpar.width && height === main.codecpar.height) alike.push(name);
    else rows.push(['Not taken', `${name}: ${plural(pictures, 'picture')} of ${width} x ${height}`]);
  }
  return { layers: alike.length > 0 ? { layers: alike } : {}, rows };
}

/** Size and shape of a clip's pictures as they are seen: turned by a quarter, width and height change places. */
function uprightSize(
  { width, height, sampleAspectRatio: { num, den } }: Stream['codecpar'],
  turn: ClipFacts['turn'],
): Pick<Facts, 'width' | 'height' | 'pixelAspect'> {
  return turn === 90 || turn === 270
    ? { width: height, height: width, pixelAspect: fraction(den, num) }
    : { width, height, pixelAspect: fraction(num, den) };
}

function soundOf(input: FormatContext): Partial<Pick<ClipFacts, 'sound'>> {
  const stream = input.streams.find(({ codecpar }) => codecpar.codecType === AVMEDIA_TYPE_AUDIO);
  if (!stream) return {};
  let codec = 'unknown';
  try {
    codec = decoderOf(stream).name ?? codec;
  } catch {
    // A sound without a decoder is there all the same.
  }
  const streams = input.streams.filter(({ codecpar }) => codecpar.codecType === AVMEDIA_TYPE_AUDIO).length;
  const { sampleRate: rate, channels } = stream.codecpar;
  return { sound: { codec, rate, channels, ...(streams > 1 ? { streams } : {}) } };
}

function lengthOf(
  input: FormatContext,
  { times, last, timed }: ClipIndex,
  duration: bigint,
  base: Rate,
  rate: Rate | undefined,
): Rate | undefined {
  if (timed && last > 0) return fraction((times[times.length - 1]! - times[0]! + last) * base.num, base.den);
  if (rate) return fraction(times.length * rate.den, rate.num);
  return duration > 0n ? fraction(duration * BigInt(base.num), base.den) : fraction(input.duration, 1_000_000);
}

function longestGroup({ keys, times }: ClipIndex): number {
  let longest = keys.length === 0 ? times.length : 0;
  keys.forEach(({ picture }, at) => (longest = Math.max(longest, (keys[at + 1]?.picture ?? times.length) - picture)));
  return longest;
}

function weightsOf({ bytes }: ClipIndex): number[] {
  const count = Math.min(weightParts, bytes.length);
  const sums = Array.from({ length: count }, () => ({ sum: 0, pictures: 0 }));
  bytes.forEach((size, at) => {
    const part = sums[Math.floor((at * count) / bytes.length)]!;
    part.sum += size;
    part.pictures += 1;
  });
  return sums.map(({ sum, pictures }) => Math.round(sum / pictures));
}

interface Looked {
  fields: ClipFacts['fields'];
  seen?: ClipFacts['seen'];
  changesAt?: number;
  problem?: ShaleError;
}

/** Decodes the first pictures: whether they come, of which size, and what their fields are like. */
async function lookAtFirst(path: string, index: ClipIndex): Promise<Looked> {
  const reader = await ClipReader.open(path, {}, index);
  const found: Looked = { fields: 'progressive' };
  const most = Math.min(decoded, index.times.length);
  let size: string | undefined;
  let read = 0;
  let fields;
  try {
    fields = await seenFields(async (use) => {
      for (let at = 0; at < most; at += 1) {
        try {
          await reader.frameAt(at, async (frame: Frame) => {
            if ((frame.flags & AV_FRAME_FLAG_INTERLACED) !== 0)
              found.fields = (frame.flags & AV_FRAME_FLAG_TOP_FIELD_FIRST) !== 0 ? 'top-first' : 'bottom-first';
            const now = `${frame.width} ${frame.height}`;
            size ??= now;
            if (now !== size) found.changesAt ??= at;
            else await use(frame);
            read += 1;
          });
        } catch (error) {
          if (!(error instanceof ShaleError)) throw error;
          found.problem ??= error;
        }
      }
    });
  } finally {
    await reader.close();
  }
  if (read > 0) delete found.problem;
  return { ...found, ...(fields ? { seen: fields } : {}) };
}

/** Length and layout of a sound, as facts for its row. */
export async function probeSound(path: string): Promise<{ seconds?: Rate; more: [string, string][] }> {
  await refuseCutWave(path);
  return withFile(path, async (input) => {
    const stream = streamOf(input, 'sound');
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

/** One picture of a file in its own samples. @param at from 0, in display order */
export async function readPicture(path: string, at: number): Promise<Image> {
  const reader = await ClipReader.open(path);
  try {
    return await reader.picture(at);
  } finally {
    await reader.close();
  }
}
