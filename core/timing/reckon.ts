import { ShaleError } from '../errors.ts';
import { bitsOf } from '../naming/values.ts';
import { coverageCount } from '../numbering/ranges.ts';
import type { Source } from '../numbering/source.ts';
import { mulDiv } from './exact.ts';
import { makeRate, rateFraction, type Rate } from './rate.ts';
import { mayDropFrames, nominalRate } from './timecode.ts';

/** An answer, and the way to it, for people who check. */
export interface Reckoned {
  answer: string;
  formula: string;
}

/** A fraction of a second as it is read: to the microsecond, and exactly where that is shorter. */
export function printExactSeconds(num: number, den: number): string {
  const { whole, rest } = mulDiv(num, 1, den);
  const micro = mulDiv(rest, 1_000_000, den);
  const parts = String(micro.whole).padStart(6, '0').replace(/0+$/, '');
  const more = micro.rest === 0 ? '' : '...';
  return parts === '' && more === ''
    ? `${whole}`
    : `${whole}.${parts === '' ? '000000' : more ? String(micro.whole).padStart(6, '0') : parts}${more}`;
}

/** When a frame begins, in seconds: frame x den / num. */
export const secondsOf = (frame: number, rate: Rate): Reckoned => ({
  answer: printExactSeconds(frame * rate.den, rate.num),
  formula: `${frame} x ${rate.den} / ${rate.num}`,
});

/**
 * Reads seconds: `12.5`, `1:30` minutes and seconds, `1001/24000`.
 * @throws ShaleError `bad-seconds`
 */
export function parseSeconds(text: string): { num: number; den: number } {
  const refuse = () =>
    new ShaleError({
      code: 'bad-seconds',
      fact: `"${text.trim()}" is not a length of time.`,
      wayOut: 'Write seconds as 12.5, minutes and seconds as 1:30, or a fraction as 1001/24000.',
      subject: 'seconds',
    });
  const plain = text.trim();
  const fraction = /^(\d{1,9})\s*\/\s*(\d{1,9})$/.exec(plain);
  if (fraction) {
    if (Number(fraction[2]) === 0) throw refuse();
    return makeRate(Number(fraction[1]), Number(fraction[2]));
  }
  const match = /^(?:(?:(\d{1,4}):)?(\d{1,4}):)?(\d{1,7})(?:[.,](\d{1,6}))?$/.exec(plain);
  if (!match) throw refuse();
  const [, hours, minutes, seconds, part = ''] = match;
  const den = 10 ** part.length;
  const whole = (Number(hours ?? 0) * 60 + Number(minutes ?? 0)) * 60 + Number(seconds);
  return makeRate(whole * den + Number(part || 0), den);
}

/** How many frames begin in a length of time, and what is left of it: time x rate. */
export function framesIn(
  time: { num: number; den: number },
  rate: Rate,
): Reckoned & { frames: number; exact: boolean } {
  const { whole, rest } = mulDiv(time.num, rate.num, time.den * rate.den);
  const den = time.den * rate.den;
  const exact = rest === 0;
  return {
    frames: whole,
    exact,
    answer: exact ? String(whole) : `${whole}, and ${Number((rest / den).toFixed(6))} of a frame`,
    formula: `${time.den === 1 ? time.num : `${time.num}/${time.den}`} x ${rateFraction(rate)}`,
  };
}

/** The frame of another rate that is on screen at the same time: floor(frame x b / a). */
export function sameTime(frame: number, a: Rate, b: Rate): Reckoned & { frame: number; exact: boolean } {
  const { whole, rest } = mulDiv(frame, b.num * a.den, b.den * a.num);
  return {
    frame: whole,
    exact: rest === 0,
    answer:
      rest === 0 ? String(whole) : `${whole}, begun ${Number((rest / (b.den * a.num)).toFixed(6))} of a frame before`,
    formula: `${frame} x (${rateFraction(b)}) / (${rateFraction(a)})`,
  };
}

/** How far frames that were made at one rate and are played at another have slipped after a time: time x (played - made). */
export function slipAfter(time: { num: number; den: number }, made: Rate, played: Rate): Reckoned & { frames: number } {
  const num = played.num * made.den - made.num * played.den;
  const den = played.den * made.den;
  const frames = (time.num * num) / (time.den * den);
  const seconds = (time.num * num * made.den) / (time.den * den * made.num);
  return {
    frames,
    answer: `${Number(frames.toFixed(4))} frames, ${Number(seconds.toFixed(4))} s`,
    formula: `${time.den === 1 ? time.num : `${time.num}/${time.den}`} x (${rateFraction(played)} - ${rateFraction(made)})`,
  };
}

/** How timecode counts at a rate, in words; what it does not do is said. */
export function timecodeWords(rate: Rate): string {
  const nominal = nominalRate(rate);
  if (rate.den === 1) return `${nominal} frames a second, as the clock`;
  if (rate.den !== 1001)
    return `counts ${nominal} frames a second, which is not its rate: no standard has timecode for it`;
  return mayDropFrames(rate)
    ? `${nominal} frames a second; drop-frame skips ${nominal / 15} labels a minute, but each tenth, and keeps to the clock`
    : `${nominal} frames a second, 3.6 s behind the clock in an hour`;
}

/** Channels of a pixel by what is kept. */
export const channelCounts = { grey: 1, 'grey with alpha': 2, RGB: 3, RGBA: 4 } as const;
export type Channels = keyof typeof channelCounts;

/** What a picture is in memory or a file without compression. */
export interface PictureSize {
  width: number;
  height: number;
  channels: Channels;
  /** 8, 10, 12, 16 or 32. */
  bits: number;
}

/** Bytes of a picture's samples; 10 bits of three channels share 32 as DPX packs them (SMPTE ST 268-1, method A). */
export function rawBytes({ width, height, channels, bits }: PictureSize): Reckoned & { bytes: number } {
  const count = channelCounts[channels];
  if (bits === 10 && count === 3) {
    const bytes = width * height * 4;
    return { bytes, answer: String(bytes), formula: `${width} x ${height} x 4 (three of 10 bits in 32)` };
  }
  const each = bits <= 8 ? 1 : bits <= 16 ? 2 : 4;
  const bytes = width * height * count * each;
  return { bytes, answer: String(bytes), formula: `${width} x ${height} x ${count} x ${each}` };
}

/** Bytes of a sequence on disk. @param percent what compression leaves of its samples, above 0; 100 for none */
export function sequenceBytes(size: PictureSize, frames: number, percent: number): Reckoned & { bytes: number } {
  const { bytes, formula } = rawBytes(size);
  const all = Math.round((bytes * frames * percent) / 100);
  return {
    bytes: all,
    answer: String(all),
    formula: `${formula} x ${frames}${percent === 100 ? '' : ` x ${percent}%`}`,
  };
}

/** How a source's files are kept: its pictures, and what compression left of their samples, measured by its bytes; undefined without facts. */
export function sizeOfSource({
  facts,
  coverage,
  bytes,
}: Pick<Source, 'facts' | 'coverage' | 'bytes'>): { size: PictureSize; frames: number; percent: number } | undefined {
  const frames = coverageCount(coverage) || 1;
  if (!facts) return undefined;
  const hasColour = facts.channels.length >= 3;
  const channels: Channels = hasColour
    ? facts.hasAlpha
      ? 'RGBA'
      : 'RGB'
    : facts.hasAlpha
      ? 'grey with alpha'
      : 'grey';
  const size = { width: facts.width, height: facts.height, channels, bits: bitsOf(facts.sample) };
  const percent = (bytes * 100) / (rawBytes(size).bytes * frames);
  return { size, frames, percent: Number(percent.toPrecision(3)) };
}

/** Bytes of so many kilobits a second for a time: rate x time / 8. */
export const videoBytes = (kilobits: number, time: { num: number; den: number }): Reckoned & { bytes: number } => {
  const bytes = Math.round((kilobits * 125 * time.num) / time.den);
  return {
    bytes,
    answer: String(bytes),
    formula: `${kilobits} x 1000 / 8 x ${time.den === 1 ? time.num : `${time.num}/${time.den}`}`,
  };
};

/** Seconds left of a run: elapsed x left / done. */
export function timeLeft(
  done: number,
  of: number,
  elapsed: { num: number; den: number },
): Reckoned & { seconds: number } {
  if (done < 1 || done > of)
    throw new ShaleError({
      code: 'bad-count',
      fact: done < 1 ? 'Nothing is done yet, so nothing can be told.' : `${done} are done of ${of}.`,
      wayOut: 'Write how many are done, 1 or more, and of how many.',
      subject: 'done',
    });
  const seconds = (elapsed.num * (of - done)) / (elapsed.den * done);
  return {
    seconds,
    answer: String(Math.round(seconds)),
    formula: `${elapsed.den === 1 ? elapsed.num : `${elapsed.num}/${elapsed.den}`} x (${of} - ${done}) / ${done}`,
  };
}
