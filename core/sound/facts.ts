import { z } from 'zod';

/** Samples from one to before another, from 0, of every channel alike. */
const stretchSchema = z.object({ from: z.int(), to: z.int() });
export type Stretch = z.infer<typeof stretchSchema>;

/** What is heard as nothing: below -60 dB of full scale, for half a second and more. */
export const silentBelow = 0.001;
export const silentSeconds = 0.5;

/** So many samples at full scale behind one another are taken for clipped; 32,767 of 32,768 counts as full. */
export const clippedRun = 3;
export const fullScale = 32_767 / 32_768;

/** The most stretches that are listed of each kind; all are counted. */
export const mostListed = 200;

/** What a sound holds, measured over every sample of it. */
export const soundFactsSchema = z.object({
  /** Samples a second, as the file has them. */
  rate: z.int(),
  channels: z.int(),
  /** Names of the channels, as far as their order is a usual one. */
  names: z.array(z.string()),
  codec: z.string(),
  /** Bits of a sample; `coded` where a coder keeps no such bits. */
  depth: z.enum(['16', '24', '32', 'float', 'coded']),
  /** Samples of each channel. */
  samples: z.int(),
  /** How many streams of sound the file has. */
  streams: z.int(),
  /** Seconds by which the first sample comes after the file's first picture; 0 where it has none. */
  begins: z.number(),
  /** EBU R 128: integrated loudness in LUFS, loudness range in LU; null where too little is heard. */
  loudness: z.number().nullable(),
  range: z.number().nullable(),
  /** The largest sample of each channel, 1 for full scale, and the largest between samples (ITU-R BS.1770-4, Annex 2). */
  peaks: z.array(z.number()),
  truePeaks: z.array(z.number()),
  /** The first sample that sounds, and the one after the last; null where none does. */
  sounds: stretchSchema.nullable(),
  silences: z.object({ count: z.int(), listed: z.array(stretchSchema) }),
  clipped: z.object({ count: z.int(), samples: z.int(), listed: z.array(stretchSchema) }),
  /** What could not be decoded within it, where something could not. */
  damaged: z.object({ at: z.int(), fact: z.string() }).nullable(),
});
export type SoundFacts = z.infer<typeof soundFactsSchema>;

/** A level in decibels of full scale. @param level 1 for full scale */
export const decibels = (level: number): number => 20 * Math.log10(level);

/** A level as it is printed: `-3.2 dB`; silence has none. */
export const printLevel = (level: number, unit = 'dB'): string =>
  level <= 0 ? 'silent' : `${decibels(level).toFixed(1)} ${unit}`;

/** Names of the channels by their number, in the order of WAV and of the library. */
export function channelNames(channels: number): string[] {
  const usual: Record<number, string[]> = {
    1: ['Mono'],
    2: ['Left', 'Right'],
    6: ['Left', 'Right', 'Centre', 'Low', 'Left back', 'Right back'],
    8: ['Left', 'Right', 'Centre', 'Low', 'Left back', 'Right back', 'Left side', 'Right side'],
  };
  return usual[channels] ?? Array.from({ length: channels }, (_, at) => `Channel ${at + 1}`);
}
