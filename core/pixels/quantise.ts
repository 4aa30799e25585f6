import type { SampleFormat } from '../numbering/source.ts';
import { maxCode } from './image.ts';
import { numberToHalf } from './half.ts';

/** Gives the stored sample for a value; integers are rounded to nearest over their full range, 0 and 1 being the ends. */
export type Quantiser = (value: number) => number;

/** Parts that the guess table cuts 0..1 into: no part of the sRGB curve crosses more than a few codes in one. */
const parts = 16_384;

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

  const guesses = new Uint16Array(parts + 1);
  let guess = 0;
  for (let part = 0; part <= parts; part += 1) {
    while (bounds[guess + 1]! <= part / parts) guess += 1;
    guesses[part] = guess;
  }
  return (value) => {
    if (!(value > 0)) return 0;
    if (value >= 1) return max;
    let at = guesses[(value * parts) | 0]!;
    while (value >= bounds[at + 1]!) at += 1;
    return at;
  };
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
