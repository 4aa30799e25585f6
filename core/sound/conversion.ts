import { z } from 'zod';
import { ShaleError } from '../errors.ts';
import { plural } from '../words.ts';
import { printLevel, type SoundFacts } from './facts.ts';
import { isKept, keepMix, mixTo, type Mix } from './mix.ts';

/** What a sound can be written as. */
interface SoundFormat {
  name: string;
  ending: string;
  /** Bits of a sample that it holds, the most first; undefined where it is coded with a loss. */
  depths?: readonly ('float' | '24' | '16')[];
  /** Samples a second that it holds, from least to most; undefined for any. */
  rates?: readonly number[];
  mostChannels: number;
}

export const soundFormats = {
  wav: { name: 'WAV', ending: 'wav', depths: ['float', '24', '16'], mostChannels: 64 },
  flac: { name: 'FLAC', ending: 'flac', depths: ['24', '16'], mostChannels: 8 },
  aac: {
    name: 'AAC',
    ending: 'm4a',
    rates: [8000, 11_025, 12_000, 16_000, 22_050, 24_000, 32_000, 44_100, 48_000, 64_000, 88_200, 96_000],
    mostChannels: 8,
  },
  opus: { name: 'Opus', ending: 'opus', rates: [48_000], mostChannels: 8 },
} as const satisfies Record<string, SoundFormat>;
export type SoundFormatName = keyof typeof soundFormats;
const formatOf = (name: SoundFormatName): SoundFormat => soundFormats[name];

/** How a sound is written. */
export const soundConversionSchema = z
  .object({
    format: z.enum(Object.keys(soundFormats) as [SoundFormatName, ...SoundFormatName[]]).default('wav'),
    /** Which of several streams of sound, from 1; null takes the one that a player would. */
    stream: z.int().min(1).max(64).nullable().default(null),
    /** Bits of a sample; `source` takes the source's as far as the format has them, 24 where it is coded. */
    depth: z.enum(['source', '16', '24', 'float']).default('source'),
    /** Noise that hides the rounding where bits or levels change. */
    dither: z.enum(['triangular', 'none']).default('triangular'),
    /** Samples a second; null takes the source's, or the next that the format has. */
    rate: z.int().min(8000).max(192_000).nullable().default(null),
    channels: z.enum(['keep', 'mono', 'stereo', 'split']).default('keep'),
    /** Decibels by which it is louder; below 0 quieter. */
    gain: z.number().min(-60).max(60).default(0),
    /** LUFS that it is brought to (EBU R 128), in place of a gain. */
    loudness: z.number().min(-60).max(-5).nullable().default(null),
    /** The most true peak that a loudness may lead to, in dBTP. */
    peak: z.number().min(-20).max(0).default(-1),
    /** Kilobits a second of AAC and Opus. */
    bitrate: z.int().min(16).max(512).default(192),
    /** Samples of the source from one to before another; null for all of it. */
    part: z
      .object({ from: z.int().min(0).max(1e11), to: z.int().min(1).max(1e11) })
      .refine(({ from, to }) => from < to, 'ends before it begins')
      .nullable()
      .default(null),
    existing: z.enum(['refuse', 'replace']).default('refuse'),
  })
  .strict();
export type SoundConversion = z.infer<typeof soundConversionSchema>;

/** What is to be done to a sound, as plain data. */
export interface SoundPlan {
  format: SoundFormatName;
  stream: number | null;
  /** Samples a second of the source and of the results, and the channels of the source. */
  sourceRate: number;
  rate: number;
  channels: number;
  /** Bits of a sample; null where it is coded with a loss. */
  depth: 'float' | '24' | '16' | null;
  dithers: boolean;
  /** Whether every sample of the results is the source's own. */
  exact: boolean;
  gain: number;
  loudness: number | null;
  peak: number;
  bitrate: number;
  /** Samples of the source that go in. */
  part: { from: number; to: number };
  files: { name: string; mix: Mix }[];
  /** What is done, as a sentence; and what is lost by it. */
  sentence: string;
  losses: string[];
}

const refuse = (name: string, fact: string, wayOut: string): ShaleError =>
  new ShaleError({ code: 'bad-sound', fact: `${name}: ${fact}`, wayOut, subject: name });

/** Short names of channels in names of files, by how many there are. */
const shorts: Record<number, string[]> = {
  1: ['M'],
  2: ['L', 'R'],
  6: ['L', 'R', 'C', 'LFE', 'Ls', 'Rs'],
  8: ['L', 'R', 'C', 'LFE', 'Lb', 'Rb', 'Ls', 'Rs'],
};

const kilohertz = (rate: number) => `${rate / 1000} kHz`;

/** The rate of the results: the one that was asked for, the source's, or the next that the format has. */
function rateOf(name: string, { format, rate: asked }: SoundConversion, source: number): number {
  const { rates, name: called } = formatOf(format);
  if (!rates) return asked ?? source;
  if (asked !== null && !rates.includes(asked))
    throw refuse(
      name,
      `${called} has no ${kilohertz(asked)}.`,
      `Choose ${rates.length === 1 ? kilohertz(rates[0]!) : `one of ${rates.map((rate) => rate / 1000).join(', ')} kHz`}.`,
    );
  return asked ?? rates.find((rate) => rate >= source) ?? rates[rates.length - 1]!;
}

function depthOf(name: string, { format, depth }: SoundConversion, source: SoundFacts['depth']): SoundPlan['depth'] {
  const { depths, name: called } = formatOf(format);
  if (!depths) return null;
  const wanted = depth !== 'source' ? depth : source === 'coded' || source === '32' ? '24' : source;
  if (depths.includes(wanted)) return wanted;
  if (depth === 'source') return depths[0]!;
  throw refuse(name, `${called} has no samples in float.`, 'Choose 24 bits, or WAV.');
}

function mixesOf(name: string, { format, channels: asked }: SoundConversion, stem: string, facts: SoundFacts) {
  const { ending, mostChannels, name: called } = formatOf(format);
  const { channels } = facts;
  if (asked === 'split')
    return keepMix(channels).map((row, at) => ({
      name: `${stem}.${shorts[channels]?.[at] ?? at + 1}.${ending}`,
      mix: [row],
    }));
  const mix = asked === 'keep' ? keepMix(channels) : mixTo(channels, asked);
  if (!mix)
    throw refuse(
      name,
      `it has ${plural(channels, 'channel')}, and nothing says where they belong.`,
      'Keep the channels, or split them.',
    );
  if (mix.length > mostChannels)
    throw refuse(
      name,
      `${called} holds ${mostChannels} channels, and it has ${channels}.`,
      'Choose WAV, or split the channels.',
    );
  return [{ name: `${stem}.${ending}`, mix }];
}

/** Bits that hold every sample of a source; coded ones have no such bits. */
const bitsOf = { '16': 16, '24': 24, '32': 32, float: 25, coded: 25 } as const;
const resultBits = { '16': 16, '24': 24, float: 25 } as const;

/** What a conversion does, worked out. */
interface Done extends Pick<SoundPlan, 'rate' | 'depth' | 'part' | 'files' | 'dithers' | 'exact' | 'gain'> {
  asked: SoundConversion;
  facts: SoundFacts;
  /** Whether channels are mixed, bits are fewer than the source's, and samples are rounded to whole numbers. */
  mixes: boolean;
  fewerBits: boolean;
  rounds: boolean;
}

function lossesOf({ asked, facts, rate, depth, files, mixes, fewerBits, rounds, dithers }: Done): string[] {
  const { channels, rate: sourceRate } = facts;
  const into = files[0]!.mix.length;
  const losses: string[] = [];
  if (facts.damaged) losses.push('What cannot be decoded is left out.');
  if (rate < sourceRate) losses.push(`Tones above ${kilohertz(rate / 2)} are lost: it has fewer samples a second.`);
  if (rate > sourceRate) losses.push(`Resampled to ${kilohertz(rate)}; this adds no higher tones.`);
  if (mixes && into < channels) {
    const low = channels > 2 ? '; low-frequency effects are left out' : '';
    losses.push(`${plural(channels, 'channel')} mixed to ${into === 1 ? 'one' : 'two'}${low}.`);
  }
  if (fewerBits) losses.push(`Samples are rounded to ${depth === 'float' ? '32 bits float' : `${depth} bits`}.`);
  if (rounds && !dithers) losses.push('Without dither the rounding can be heard in quiet passages.');
  if (depth === null) losses.push(`${formatOf(asked.format).name} is lossy; ${asked.bitrate} kbit/s.`);
  return losses;
}

function sentenceOf(
  name: string,
  { asked, facts, rate, depth, part, files, mixes, dithers, exact, gain }: Done,
): string {
  const lowered = mixes ? Math.max(...files[0]!.mix.flat()) : 1;
  const words = [formatOf(asked.format).name];
  if (depth !== null) words.push(depth === 'float' ? 'float' : `${depth} bits`);
  words.push(kilohertz(rate));
  if (asked.channels === 'split')
    words.push(plural(facts.channels, 'file of one channel', 'files of one channel each'));
  if (mixes) words.push(files[0]!.mix.length === 1 ? 'mono' : 'stereo');
  if (lowered < 1) words.push(`no channel above ${printLevel(lowered)}`);
  if (gain !== 0) words.push(`${Math.abs(gain)} dB ${gain > 0 ? 'louder' : 'quieter'}`);
  if (asked.loudness !== null) words.push(`${asked.loudness} LUFS, true peak ${asked.peak} dBTP at most`);
  if (dithers) words.push('dithered');
  const count = (sample: number) => sample.toLocaleString('en-GB');
  const which = asked.part ? `Samples ${count(part.from)} to ${count(part.to - 1)}` : 'All';
  return `${which} of ${name} as ${words.join(', ')}${exact ? '; every sample unchanged' : ''}.`;
}

/**
 * What a conversion does to a sound.
 * @param name the source's, in what is told; `stem` goes into the results' names
 * @throws ShaleError `bad-sound`
 */
export function planSound(
  { name, stem, facts }: { name: string; stem: string; facts: SoundFacts },
  asked: SoundConversion,
): SoundPlan {
  const { rate: sourceRate, channels } = facts;
  const { format, stream, loudness, peak, bitrate } = asked;
  if (facts.samples === 0)
    throw refuse(name, 'it has no samples.', 'Choose another sound, or the file it was made from.');
  const part = asked.part
    ? { from: asked.part.from, to: Math.min(asked.part.to, facts.samples) }
    : { from: 0, to: facts.samples };
  if (part.from >= part.to)
    throw refuse(name, `it ends before sample ${part.from.toLocaleString('en-GB')}.`, 'Choose an earlier beginning.');
  if (loudness !== null && facts.loudness === null)
    throw refuse(name, 'it is too quiet or too short for its loudness to be measured.', 'Give a gain instead.');
  const rate = rateOf(name, asked, sourceRate);
  const depth = depthOf(name, asked, facts.depth);
  const files = mixesOf(name, asked, stem, facts);
  const mixes = asked.channels !== 'split' && !isKept(files[0]!.mix);
  const gain = loudness === null ? asked.gain : 0;
  const levels = gain !== 0 || loudness !== null || mixes || rate !== sourceRate;
  const fewerBits = depth !== null && resultBits[depth] < bitsOf[facts.depth];
  // Into float every sample of 24 bits goes as it is.
  const rounds = depth !== null && depth !== 'float' && (levels || fewerBits);
  const exact = depth !== null && !levels && !fewerBits && facts.damaged === null;
  const dithers = rounds && asked.dither === 'triangular';
  const done = { asked, facts, rate, depth, part, files, mixes, fewerBits, rounds, dithers, exact, gain };
  return {
    format,
    stream,
    sourceRate,
    rate,
    channels,
    depth,
    dithers,
    exact,
    gain,
    loudness,
    peak,
    bitrate,
    part,
    files,
    sentence: sentenceOf(name, done),
    losses: lossesOf(done),
  };
}

/** The gain that brings a loudness to a wanted one, in decibels, and whether the peak held it back. @param truePeak 1 for full scale */
export function gainTo(
  wanted: { loudness: number; peak: number },
  found: { loudness: number; truePeak: number },
): { gain: number; held: boolean } {
  const gain = wanted.loudness - found.loudness;
  const most = wanted.peak - 20 * Math.log10(found.truePeak);
  return gain > most ? { gain: most, held: true } : { gain, held: false };
}

/** What was written, measured on what was read back. */
export const soundWrittenSchema = z.object({
  name: z.string(),
  bytes: z.int(),
  sha256: z.string(),
  samples: z.int(),
  rate: z.int(),
  channels: z.int(),
  loudness: z.number().nullable(),
  /** 1 for full scale. */
  truePeak: z.number(),
});

/** What became of a conversion. */
export const soundReceiptSchema = z.object({
  /** What was done, and what was lost by it. */
  sentence: z.string(),
  losses: z.array(z.string()),
  folder: z.string(),
  /** Decibels that were put on it. */
  gain: z.number(),
  /** Samples beyond full scale, which were held there. */
  clipped: z.int(),
  /** Whether every sample that was read back is the one that was meant; null for what is coded with a loss. */
  same: z.boolean().nullable(),
  files: z.array(soundWrittenSchema),
});
export type SoundWritten = z.infer<typeof soundWrittenSchema>;
export type SoundReceipt = z.infer<typeof soundReceiptSchema>;
