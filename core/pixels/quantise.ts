import type { SampleFormat } from '../numbering/source.ts';
import { maxCode } from './image.ts';
import { numberToHalf } from './half.ts';

/** Gives the stored sample for a value; integers are rounded to nearest over their full range, 0 and 1 being the ends. */
export interface Quantiser {
  (value: number): number;
  /** For integers: what it looks up, for loops too hot for a call per sample. */
  steps?: Steps;
}

/** The codes of a curve as lookups: start at `guesses[value * guessParts | 0]`, go up while the next code's bound is reached. */
export interface Steps {
  /** Lower bound of each code's values, `bounds[max + 1]` being infinity. */
  bounds: Float64Array;
  guesses: Uint16Array;
  max: number;
}

/** Parts that the guess table cuts 0..1 into: no part of the sRGB curve crosses more than a few codes in one. */
export const guessParts = 16_384;

/**
 * The quantiser for `curve(value)` at a sample format. `curve` must not fall, and takes 0 to 0 and 1 to 1.
 * For integers the codes' lower bounds are found once, so that no power is computed per sample and the result is that of
 * `round(curve(value) * max)` all the same. NaN becomes 0, values outside 0..1 the nearest end.
 */
export function quantiser(sample: SampleFormat, curve: (value: number) => number): Quantiser {
  const max = maxCode(sample);
  if (max === undefined) return sample === 'f16' ? (value) => numberToHalf(curve(value)) : curve;
  const code = (value: number) => Math.floor(curve(value) * max + 0.5);

  const bounds = new Float64Array(max + 2);
  for (let at = 1; at <= max; at += 1) bounds[at] = lowerBound(code, at, bounds[at - 1]!);
  bounds[max + 1] = Infinity;

  const guesses = new Uint16Array(guessParts + 1);
  let guess = 0;
  for (let part = 0; part <= guessParts; part += 1) {
    while (bounds[guess + 1]! <= part / guessParts) guess += 1;
    guesses[part] = guess;
  }
  const quantise: Quantiser = (value) => {
    if (!(value > 0)) return 0;
    if (value >= 1) return max;
    let at = guesses[(value * guessParts) | 0]!;
    while (value >= bounds[at + 1]!) at += 1;
    return at;
  };
  quantise.steps = { bounds, guesses, max };
  return quantise;
}

/** The least double in 0..1 whose code is `at` or more, by halving to the last bit. */
function lowerBound(code: (value: number) => number, at: number, from: number): number {
  let low = from;
  let high = 1;
  for (let round = 0; round < 1100; round += 1) {
    const middle = low + (high - low) / 2;
    if (middle <= low || middle >= high) break;
    if (code(middle) >= at) high = middle;
    else low = middle;
  }
  return high;
}
