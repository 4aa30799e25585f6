import { z } from 'zod';
import { plural, printBytes } from '../words.ts';
import { printRate, type Rate } from './rate.ts';

const count = z.number().min(0);

/** What was measured of a source for playing it. */
export const weighedSchema = z.object({
  /** Bytes of frames on disk, by frame: all of a short source, even samples of a long one. */
  bytes: z.array(z.tuple([z.int(), count])),
  /** Milliseconds to read and decode a frame on one core of this machine, by frame. */
  decode: z.array(z.tuple([z.int(), count])),
  /** Bytes of a decoded frame in memory, 8-bit RGB with alpha, as players hold it. */
  frameMemory: z.int(),
  /** Frames that could not be decoded. */
  failed: z.int(),
});
export type Weighed = z.infer<typeof weighedSchema>;

/** Whether a source plays at its rate here, and why. */
export interface PlaybackWeight {
  /** Bits a second that have to be read. */
  bitrate: number;
  /** Frames that one core decodes in a second, by the mean of what was measured; null where nothing could be decoded. */
  decodeRate: number | null;
  /** Bytes that one second takes in memory. */
  secondMemory: number;
  verdict: 'plays' | 'close' | 'stutters';
  sentence: string;
}

/** How much quicker than its rate a source has to decode for a player to have room for the rest. */
export const room = 1.3;
/** Bits a second up to which a file is light for any disk and for a player in a browser. */
const lightBits = 60e6;

const mean = (values: readonly (readonly [number, number])[]): number =>
  values.reduce((sum, [, value]) => sum + value, 0) / Math.max(1, values.length);

/** Weighs what was measured against a rate. */
export function weightOf({ bytes, decode, frameMemory }: Weighed, rate: Rate): PlaybackWeight {
  const perSecond = rate.num / rate.den;
  const bitrate = mean(bytes) * 8 * perSecond;
  const decodeRate = decode.length > 0 ? 1000 / Math.max(0.01, mean(decode)) : null;
  const secondMemory = frameMemory * perSecond;
  const common = { bitrate, decodeRate, secondMemory };
  const data = `${printBits(bitrate)} a second`;
  if (decodeRate === null) return { ...common, verdict: 'stutters', sentence: 'No frame of it could be decoded.' };
  const speed = `One core here decodes ${decodeRate.toFixed(decodeRate < 10 ? 1 : 0)} frames a second`;
  if (decodeRate >= perSecond * room && bitrate <= lightBits)
    return {
      ...common,
      verdict: 'plays',
      sentence: `It plays at ${printRate(rate)}: ${speed.toLowerCase()}, and its data are ${data}.`,
    };
  if (decodeRate >= perSecond * room)
    return {
      ...common,
      verdict: 'close',
      sentence: `${speed}, enough for ${printRate(rate)}; its ${data} are much for a slow disk or a network.`,
    };
  return {
    ...common,
    verdict: decodeRate >= perSecond ? 'close' : 'stutters',
    sentence: `${speed}, and ${printRate(rate)} are wanted: it ${decodeRate >= perSecond ? 'may drop frames' : 'will stutter'}.`,
  };
}

/** Bits as the trade of video writes them, by thousands: `12.5 Mb`. */
export function printBits(bits: number): string {
  if (bits >= 1e9) return `${(bits / 1e9).toFixed(2)} Gb`;
  if (bits >= 1e6) return `${(bits / 1e6).toFixed(1)} Mb`;
  return `${Math.round(bits / 1000)} kb`;
}

/** Memory for a second, in words. */
export const memoryWords = ({ secondMemory }: PlaybackWeight): string =>
  `${printBytes(secondMemory)} a second once decoded`;

/** The frames that were looked at, in words. */
export const lookedWords = ({ decode, failed }: Weighed): string =>
  `${plural(decode.length, 'frame')} decoded${failed > 0 ? `, ${failed} of those tried could not be` : ''}`;
