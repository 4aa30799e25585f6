import { z } from 'zod';
import { ShaleError } from '../errors.ts';
import { andWords, orWords, plural } from '../words.ts';
import type { Fraction } from './placed.ts';

/** Containers whose sound can be replaced, by the ending of a clip: the library's name of each, and what sound is coded in there, the usual first. */
const containers: Record<string, { container: string; codecs: readonly SwapCodec[] }> = {
  mp4: { container: 'mp4', codecs: ['aac'] },
  m4v: { container: 'mp4', codecs: ['aac'] },
  mov: { container: 'mov', codecs: ['pcm', 'aac'] },
  mkv: { container: 'matroska', codecs: ['flac'] },
  webm: { container: 'webm', codecs: ['opus'] },
};
export const swapCodecs = ['aac', 'pcm', 'flac', 'opus'] as const;
export type SwapCodec = (typeof swapCodecs)[number];

const codecNames: Record<SwapCodec, string> = { aac: 'AAC', pcm: 'PCM', flac: 'FLAC', opus: 'Opus' };

/** How a clip is given other sound. */
export const soundSwapSchema = z
  .object({
    /** What the sound is coded in; null takes what is usual in the container. */
    codec: z.enum(swapCodecs).nullable().default(null),
    /** Seconds by which every sound begins later than the picture; below 0 earlier. */
    delay: z.object({ num: z.int().min(-1e12).max(1e12), den: z.int().min(1).max(1e9) }).default({ num: 0, den: 1 }),
    /** Samples of its own by which it begins later still. */
    later: z.int().min(-1e9).max(1e9).default(0),
    /** Kilobits a second of AAC and Opus. */
    bitrate: z.int().min(16).max(512).default(192),
    existing: z.enum(['refuse', 'replace']).default('refuse'),
  })
  .strict();
export type SoundSwap = z.infer<typeof soundSwapSchema>;

/** What became of a clip that was given other sound. */
export const swapReceiptSchema = z.object({
  sentence: z.string(),
  folder: z.string(),
  name: z.string(),
  bytes: z.int(),
  sha256: z.string(),
  /** Coded pictures that were taken over; each was read back and is the clip's own. */
  pictures: z.int(),
  /** Streams of the clip that the result does not have. */
  left: z.int(),
});
export type SwapReceipt = z.infer<typeof swapReceiptSchema>;

/** What is to become of a clip's sound. */
export interface SwapPlan {
  /** The library's name of the container. */
  container: string;
  codec: SwapCodec;
  /** Seconds by which every sound begins later than the picture. */
  delay: Fraction;
  /** Samples of its own by which it begins later still. */
  later: number;
  bitrate: number;
  /** Of the result. */
  name: string;
  sentence: string;
}

/**
 * What replacing a clip's sound does. @param clip its name @param sounds their names: each becomes a track
 * @throws ShaleError `bad-sound`
 */
export function planSwap(
  clip: string,
  sounds: readonly string[],
  { codec: asked, delay, later, bitrate }: SoundSwap,
  stem: string | null,
): SwapPlan {
  const [, own, ending = ''] = /^(.*?)\.([^.]*)$/.exec(clip) ?? [];
  const found = containers[ending.toLowerCase()];
  const refuse = (fact: string, wayOut: string) =>
    new ShaleError({ code: 'bad-sound', fact: `${clip}: ${fact}`, wayOut, subject: clip });
  if (!found)
    throw refuse(
      'sound can be replaced in MP4, MOV, Matroska and WebM only.',
      'Convert the clip; a new sound can be laid under it there.',
    );
  const codec = asked ?? found.codecs[0]!;
  if (!found.codecs.includes(codec))
    throw refuse(
      `its container is not given ${codecNames[codec]} here.`,
      `Choose ${orWords(found.codecs.map((one) => codecNames[one]))}.`,
    );
  const late = delay.num / delay.den;
  const words = [
    sounds.length === 1
      ? `${sounds[0]} as ${codecNames[codec]}`
      : `${plural(sounds.length, 'track')} of ${codecNames[codec]}: ${andWords(sounds)}`,
    ...(late === 0 ? [] : [`${Math.abs(late).toFixed(3)} s ${late > 0 ? 'later' : 'earlier'}`]),
    ...(later === 0 ? [] : [`${plural(Math.abs(later), 'sample')} ${later > 0 ? 'later' : 'earlier'}`]),
  ];
  return {
    container: found.container,
    codec,
    delay,
    later,
    bitrate,
    name: `${stem ?? own}.${ending}`,
    sentence: `The pictures of ${clip} as they are coded, with ${words.join(', ')}.`,
  };
}
