import { rm } from 'node:fs/promises';
import { openMoving, type VideoSettings } from '@shale/media';
import { codecRecord, type Plan } from '@shale/core';
import { encodeRows, type Encoded, type Encoding } from './encode.ts';
import { soundUnder } from './sound.ts';

/** A video to encode, all of it. */
export interface Whole extends Pick<Encoding, 'plan' | 'places' | 'rows' | 'expected'> {
  /** Its file; what is there is written over. */
  path: string;
}

/** Told while a video is made. */
export interface VideoProgress {
  /** Pictures that went in, over all passes, of so many. */
  done: number;
  of: number;
  bytes: number;
  /** Pictures among those done that stay where it is stopped now: those of whole pieces. */
  safe: number;
  /** Pictures among those done that were there before it was begun or went on. */
  before: number;
}

/** Settings with the sound that goes under the pictures. */
export function withSound({ plan, places, rows }: Whole, settings: VideoSettings): VideoSettings {
  const sound = soundUnder(plan, places, rows.length);
  return sound ? { ...settings, sound } : settings;
}

/** Bitrate of pictures that were encoded, kb/s. */
export function kilobitsOf({ plan, rows }: Pick<Whole, 'plan' | 'rows'>, { bytes }: Encoded): number {
  const { num, den } = plan.rate!;
  return (bytes * 8 * num) / (1000 * den * rows.length);
}

/** A bitrate counts as reached to within this share of it. */
const reached = 0.05;

/** Encodings after which a bitrate that is missed still stays missed, and is told in the receipt. */
const mostTries = 3;

/** Whether a bitrate decides a video's size; a spec may hold one that its codec does not look at. */
export const asksBitrate = ({ spec: { write, video } }: Plan): boolean =>
  codecRecord(write.format)!.controls === 'rate' && video.control === 'bitrate';

/**
 * Encodes into a path from the first picture to the last: in two passes where they are asked for; again by a corrected bitrate
 * where an encoder misses the one that is asked for. @returns undefined where it was stopped
 */
export async function encodeOnce(
  whole: Whole,
  /** By which the first pass tells the second. */
  log: string,
  onProgress: (progress: VideoProgress) => void,
  signal?: AbortSignal,
): Promise<Encoded | undefined> {
  const { plan, places, rows, path, expected } = whole;
  const { write, video } = plan.spec;
  const { twoPasses, aims } = codecRecord(write.format)!;
  const byBitrate = asksBitrate(plan);
  const twice = byBitrate && twoPasses === true && video.passes === 2;
  const tries = byBitrate && aims === true ? mostTries : 1;
  let of = rows.length * (twice || tries > 1 ? 2 : 1);
  let done = 0;
  const onPicture = (bytes: number) =>
    onProgress({ done: (done += 1), of: (of = Math.max(of, done)), bytes, safe: 0, before: 0 });
  const encode = async (settings: Encoding['settings']) => {
    await rm(path, { force: true });
    const open = (one: VideoSettings) => openMoving(path, one);
    return encodeRows({ plan, places, rows, expected, open, settings }, onPicture, signal);
  };
  if (twice && !(await encode((usual) => ({ ...usual, pass: { number: 1, log } })))) return undefined;
  let { bitrate } = video;
  let before = 0;
  for (let attempt = 1; ; attempt += 1) {
    const encoded = await encode((usual) => ({
      ...withSound(whole, usual),
      video: { ...usual.video, bitrate },
      ...(twice ? { pass: { number: 2, log } } : {}),
    }));
    if (!encoded || signal?.aborted) return undefined;
    const kilobits = kilobitsOf(whole, encoded);
    const share = kilobits / video.bitrate;
    const next = Math.round(Math.min(video.maxBitrate ?? Infinity, Math.max(10, bitrate / share)));
    // Pictures that need no more, or cannot do with less, stay what they are.
    const moved = Math.abs(kilobits - before) > before / 100;
    if (attempt >= tries || Math.abs(share - 1) <= reached || next === bitrate || !moved) return encoded;
    [bitrate, before] = [next, kilobits];
  }
}
