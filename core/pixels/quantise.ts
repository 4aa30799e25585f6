import type { SampleFormat } from '../numbering/source.ts';
import { maxCode } from './image.ts';
import { numberToHalf } from './half.ts';

/** Gives the stored sample for a value; integers are rounded to nearest over their full range. */
export interface Quantiser {
  (value: number): number;
  /** For integers of values from 0 to 1: what it looks up, for loops too hot for a call per sample. */
  steps?: Steps;
}

/** The codes of a curve as lookups: start at `guesses[value * guessParts | 0]`, go up while the next code's bound is reached. */
export interface Steps {
  /** Lower bound of each code's values, `bounds[max + 1]` being infinity. */
  bounds: Float64Array;
  guesses: Uint16Array;
  max: number;
}

/** Parts that the guess table cuts the curve's domain into: no part of the sRGB curve crosses more than a few codes in one. */
export const guessParts = 16_384;

/** Codes within a part up to which going up one by one is quicker than halving. */
const fewCodes = 8;

/**
 * The quantiser for `curve(value)` at a sample format. `curve` must not fall over its domain, whose ends it takes to 0 and 1.
 * For integers the codes' lower bounds are found once, so that no power is computed per sample and the result is that of
 * `round(curve(value) * max)` all the same. NaN becomes 0, values outside the domain the nearest end.
 */
export function quantiser(
  sample: SampleFormat,
  curve: (value: number) => number,
  [least, most]: readonly [number, number] = [0, 1],
): Quantiser {
  const max = maxCode(sample);
  if (max === undefined) return sample === 'f16' ? (value) => numberToHalf(curve(value)) : curve;
  const code = (value: number) => Math.floor(curve(value) * max + 0.5);

  const bounds = new Float64Array(max + 2);
  bounds[0] = least;
  for (let at = 1; at <= max; at += 1) bounds[at] = lowerBound(code, at, bounds[at - 1]!, most);
  bounds[max + 1] = Infinity;

  const width = most - least;
  const guesses = new Uint16Array(guessParts + 1);
  let guess = 0;
  for (let part = 0; part <= guessParts; part += 1) {
    while (bounds[guess + 1]! <= least + (part / guessParts) * width) guess += 1;
    guesses[part] = guess;
  }
  if (least === 0 && most === 1) {
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
  const scale = guessParts / width;
  return (value) => {
    if (!(value > least)) return 0;
    if (value >= most) return max;
    const part = Math.min(guessParts - 1, ((value - least) * scale) | 0);
    let at = guesses[part]!;
    // A part of a logarithm's foot crosses thousands of codes.
    for (let over = guesses[part + 1]!; over - at > fewCodes;) {
      const middle = (at + over) >> 1;
      if (value >= bounds[middle]!) at = middle;
      else over = middle;
    }
    // The part may be one too high or too low by rounding.
    while (at > 0 && value < bounds[at]!) at -= 1;
    while (value >= bounds[at + 1]!) at += 1;
    return at;
  };
}

/** The least double from `from` to `to` whose code is `at` or more, by halving to the last bit. */
function lowerBound(code: (value: number) => number, at: number, from: number, to: number): number {
  let low = from;
  let high = to;
  for (let round = 0; round < 1100; round += 1) {
    const middle = low + (high - low) / 2;
    if (middle <= low || middle >= high) break;
    if (code(middle) >= at) high = middle;
    else low = middle;
  }
  return high;
}
