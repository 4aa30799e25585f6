import { z } from 'zod';
import { coverageOf } from '../numbering/ranges.ts';
import { frameRangeSchema } from '../numbering/ranges.ts';
import { rateNumber, makeRate, type Rate } from './rate.ts';

/** How a frame differs from the one before: means over a small picture of it, in 8-bit codes. */
export interface Difference3 {
  /** Of all rows, of the even ones, of the odd ones. */
  whole: number;
  even: number;
  odd: number;
}

/** What was found of how frames follow one another. */
export const cadenceSchema = z.object({
  /** Frames that were looked at. */
  frames: z.int(),
  /** Frames that show what the one before shows. */
  repeats: z.array(frameRangeSchema),
  /** Frames before which one seems to be missing: what moves jumps there. */
  jumps: z.array(frameRangeSchema),
  /** Frames beside which pictures were not compared: the first, and those behind a gap. */
  apart: z.array(frameRangeSchema),
  /** So many of so many frames are new, over and over, from the first frame on. */
  pattern: z
    .object({
      fresh: z.int().min(1),
      of: z.int().min(2),
      /** How many of the frames follow it, 0 to 1. */
      holds: z.number(),
    })
    .nullable(),
  /** 3:2 pulldown in the lines: the place of the first frame in its cycle of five, and the lines that come first. */
  pulldown: z.object({ phase: z.int().min(0).max(4), lines: z.enum(['top', 'bottom']), holds: z.number() }).nullable(),
  /** Nothing moves that could tell. */
  still: z.boolean(),
  /** For a chart: how frames differ from the one before, the greatest of `every` in a row, two places behind the comma. */
  differences: z.array(z.number()),
  every: z.int().min(1),
});
export type Cadence = z.infer<typeof cadenceSchema>;

/** Frames to both sides that a difference is held against. */
const around = 12;
/** Below this share of what moves around it a frame repeats the one before; above this much of it one is missing. */
const repeatShare = 0.12;
const jumpShare = 1.7;
/** Above this it is a cut. */
const cutShare = 4;
/** Less than this, in 8-bit codes, is no motion that tells anything. */
const leastMotion = 0.08;
/** How many frames a pattern has to hold for. */
const holdsFor = 0.95;
/** The longest pattern that is looked for: 24 in 25, and 59 in 60 is none. */
const longestPattern = 30;
const mostOnChart = 2000;

/** The value that so large a share of some is not above. */
function quantile(values: ArrayLike<number>, share: number): number {
  const sorted = Float64Array.from(values).sort();
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? 0;
}

/** What moves around each place: nearly the greatest of the differences there. */
function motionAround(differences: Float32Array): Float32Array {
  const motion = new Float32Array(differences.length);
  const window: number[] = [];
  for (let at = 0; at < differences.length; at += 1) {
    window.length = 0;
    for (let k = Math.max(0, at - around); k <= Math.min(differences.length - 1, at + around); k += 1)
      if (!Number.isNaN(differences[k]!)) window.push(differences[k]!);
    motion[at] = quantile(window, 0.85);
  }
  return motion;
}

/** Which frames repeat the one before, by one kind of rows. */
function repeatsIn(differences: Float32Array): Uint8Array {
  const motion = motionAround(differences);
  return Uint8Array.from(differences, (value, at) =>
    motion[at]! >= leastMotion && value <= repeatShare * motion[at]! ? 1 : 0,
  );
}

/** Gathers how frames differ, one after another, and tells their cadence. It keeps three numbers a frame and no picture. */
export class CadenceFinder {
  private whole = new Float32Array(1024);
  private even = new Float32Array(1024);
  private odd = new Float32Array(1024);
  private numbers: number[] = [];

  /** @param difference null where there is no frame before, or not the one that belongs there */
  add(frame: number, difference: Difference3 | null): void {
    const at = this.numbers.length;
    if (at === this.whole.length) for (const name of ['whole', 'even', 'odd'] as const) this[name] = grown(this[name]);
    this.numbers.push(frame);
    this.whole[at] = difference?.whole ?? NaN;
    this.even[at] = difference?.even ?? NaN;
    this.odd[at] = difference?.odd ?? NaN;
  }

  result(): Cadence {
    const count = this.numbers.length;
    const whole = this.whole.subarray(0, count);
    const repeats = repeatsIn(whole);
    const numbered = (flags: ArrayLike<number>) => coverageOf(this.numbers.filter((_, at) => flags[at] === 1));
    const every = Math.max(1, Math.ceil(count / mostOnChart));
    const differences: number[] = [];
    for (let at = 0; at < count; at += every) {
      let most = 0;
      for (let k = at; k < Math.min(count, at + every); k += 1) most = Math.max(most, whole[k] || 0);
      differences.push(Math.round(most * 100) / 100);
    }
    const motion = quantile(
      whole.filter((value) => !Number.isNaN(value)),
      0.95,
    );
    return {
      frames: count,
      repeats: numbered(repeats),
      jumps: numbered(jumpsIn(whole, repeats)),
      apart: numbered(Uint8Array.from(whole, (value) => (Number.isNaN(value) ? 1 : 0))),
      pattern: patternIn(repeats),
      pulldown: pulldownIn(repeatsIn(this.even.subarray(0, count)), repeatsIn(this.odd.subarray(0, count)), repeats),
      still: motion < leastMotion,
      differences,
      every,
    };
  }
}

function grown(values: Float32Array<ArrayBuffer>): Float32Array<ArrayBuffer> {
  const larger = new Float32Array(values.length * 2);
  larger.set(values);
  return larger;
}

/** Frames before which what moves jumps about twice as far as it does around, where it moves evenly. */
function jumpsIn(differences: Float32Array, repeats: Uint8Array): Uint8Array {
  const jumps = new Uint8Array(differences.length);
  const fresh: number[] = [];
  for (let at = 0; at < differences.length; at += 1) if (!repeats[at] && differences[at]! >= 0) fresh.push(at);
  for (let k = 0; k < fresh.length; k += 1) {
    const beside: number[] = [];
    for (let near = Math.max(0, k - 4); near <= Math.min(fresh.length - 1, k + 4); near += 1)
      if (near !== k) beside.push(differences[fresh[near]!]!);
    if (beside.length < 4) continue;
    const middle = quantile(beside, 0.5);
    const value = differences[fresh[k]!]!;
    const isEven = quantile(beside, 0.8) <= 1.35 * middle && quantile(beside, 0.2) >= middle / 1.35;
    if (middle >= leastMotion && isEven && value >= jumpShare * middle && value <= cutShare * middle)
      jumps[fresh[k]!] = 1;
  }
  return jumps;
}

/** The shortest pattern of repeats that keeps on. */
function patternIn(repeats: Uint8Array): Cadence['pattern'] {
  const total = repeats.reduce((sum, one) => sum + one, 0);
  if (total === 0 || repeats.length < 8) return null;
  for (let of = 2; of <= Math.min(longestPattern, Math.floor(repeats.length / 3)); of += 1) {
    // What most frames at each place of the pattern do; the first frame of all is new, though nothing was before it.
    const sums = new Array<number>(of).fill(0);
    const counts = new Array<number>(of).fill(0);
    for (let at = 1; at < repeats.length; at += 1) {
      sums[at % of]! += repeats[at]!;
      counts[at % of]! += 1;
    }
    const usual = sums.map((sum, place) => (sum * 2 > counts[place]! ? 1 : 0));
    const repeated = usual.reduce<number>((sum, one) => sum + one, 0);
    if (repeated === 0 || repeated === of) continue;
    let agree = 0;
    for (let at = 1; at < repeats.length; at += 1) if (repeats[at] === usual[at % of]) agree += 1;
    const holds = agree / (repeats.length - 1);
    // A pattern has to explain the repeats, not the many frames that are new anyway.
    const missed = (repeats.length - 1) * (1 - holds);
    if (holds >= holdsFor && missed <= total * 0.25) return { fresh: of - repeated, of, holds };
  }
  return null;
}

/** Where in a cycle of five the even and the odd rows repeat: the third and the fifth frame of a cycle. */
function pulldownIn(even: Uint8Array, odd: Uint8Array, whole: Uint8Array): Cadence['pulldown'] {
  if (even.length < 15) return null;
  const place = (flags: Uint8Array): { at: number; holds: number } => {
    const sums = [0, 0, 0, 0, 0];
    for (let at = 1; at < flags.length; at += 1) sums[at % 5]! += flags[at]!;
    const at = sums.indexOf(Math.max(...sums));
    let agree = 0;
    for (let k = 1; k < flags.length; k += 1) if (flags[k] === (k % 5 === at ? 1 : 0)) agree += 1;
    return { at, holds: agree / (flags.length - 1) };
  };
  const [first, second] = [place(even), place(odd)];
  const holds = Math.min(first.holds, second.holds);
  // Whole frames that repeat are no pulldown in the lines.
  if (
    holds < 0.9 ||
    first.at === second.at ||
    whole.some((one, at) => one === 1 && at % 5 === first.at && even[at] === odd[at])
  )
    return null;
  const apart = (((second.at - first.at) % 5) + 5) % 5;
  if (apart === 2) return { phase: (((2 - first.at) % 5) + 5) % 5, lines: 'top', holds };
  if (apart === 3) return { phase: (((2 - second.at) % 5) + 5) % 5, lines: 'bottom', holds };
  return null;
}

const standing: Record<number, string> = { 2: 'On twos', 3: 'On threes', 4: 'On fours' };

/** A cadence in a few words: `On twos`, `24 in 30`, `3:2 pulldown, phase 2, top lines first`. @param rate that of the frames */
export function cadenceWords({ pattern, pulldown, repeats, jumps, still }: Cadence, rate: Rate | null): string {
  if (still) return 'Nothing moves';
  if (pulldown) return `3:2 pulldown, phase ${pulldown.phase}, ${pulldown.lines} lines first`;
  if (pattern) {
    const { fresh, of } = pattern;
    if (fresh === 1) return standing[of] ?? `Each frame is shown ${of} times`;
    if (!rate) return `${fresh} of ${of} frames are new`;
    const source = makeRate(rate.num * fresh, rate.den * of);
    return `${rateNumber(source)} in ${rateNumber(rate)}`;
  }
  if (repeats.length > 0) return 'Frames repeat, in no pattern';
  return jumps.length > 0 ? 'Every frame is new, and some seem to be missing' : 'Every frame is new';
}

/** What a plan takes of a cadence. */
export const holdsOf = ({ repeats, pattern }: Cadence) => ({
  repeats,
  pattern: pattern && { fresh: pattern.fresh, of: pattern.of },
});
