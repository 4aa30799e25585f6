import type { SampleFormat } from '../numbering/source.ts';
import { maxCode } from './image.ts';
import { numberToHalf } from './half.ts';

/** Gives the stored sample for a value; integers are rounded to nearest over their full range. */
export interface Quantiser {
  (value: number): number;
  /** For integers: what it looks up, for loops too hot for a call per sample. */
  steps?: Steps;
}

/**
 * The codes of a curve as lookups: start at the guess for the part of the domain that a value lies in, go on while the next
 * code's bound is reached.
 */
export interface Steps {
  /** Lower bound of each code's values, `bounds[max + 1]` being infinity. */
  bounds: Float64Array;
  guesses: Uint16Array;
  /** Parts that the domain is cut into. */
  parts: number;
  max: number;
  /** The domain: what lies below and above becomes 0 and the greatest code. */
  least: number;
  most: number;
}

/** Parts that the guess table cuts the curve's domain into: no part of the sRGB curve crosses more than a few codes in one. */
const partsFor = (max: number): number => (max > 4095 ? 131_072 : 16_384);

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
  // A value's code is the whole part of this.
  const height = (value: number) => curve(value) * max + 0.5;

  const bounds = new Float64Array(max + 2);
  bounds[0] = least;
  for (let at = 1; at <= max; at += 1) {
    const before = bounds[at - 1]!;
    // As far as the code before lies from the one before that.
    const stride = at > 1 ? before - bounds[at - 2]! : (most - least) / max;
    bounds[at] = lowerBound(height, at, before, most, stride > 0 ? stride : (most - least) / max);
  }
  bounds[max + 1] = Infinity;

  const width = most - least;
  const parts = partsFor(max);
  const guesses = new Uint16Array(parts + 1);
  let guess = 0;
  for (let part = 0; part <= parts; part += 1) {
    while (bounds[guess + 1]! <= least + (part / parts) * width) guess += 1;
    guesses[part] = guess;
  }
  if (least === 0 && most === 1) {
    const quantise: Quantiser = (value) => {
      if (!(value > 0)) return 0;
      if (value >= 1) return max;
      let at = guesses[(value * parts) | 0]!;
      while (value >= bounds[at + 1]!) at += 1;
      return at;
    };
    quantise.steps = { bounds, guesses, parts, max, least, most };
    return quantise;
  }
  const scale = parts / width;
  const quantise: Quantiser = (value) => {
    if (!(value > least)) return 0;
    if (value >= most) return max;
    const part = Math.min(parts - 1, ((value - least) * scale) | 0);
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
  quantise.steps = { bounds, guesses, parts, max, least, most };
  return quantise;
}

const plainQuantisers = new Map<SampleFormat, Quantiser>();

/** The quantiser without a curve, made once for each format: of alpha, and of values that have their curve already. */
export function plainQuantiser(sample: SampleFormat): Quantiser {
  let plain = plainQuantisers.get(sample);
  if (!plain) plainQuantisers.set(sample, (plain = quantiser(sample, (value) => value)));
  return plain;
}

/**
 * The least double from `from` to `to` where `height` reaches `at`. A straight line through the ends comes near in a few rounds, since
 * between two codes a curve is nearly one; halving finds the last bits.
 */
function lowerBound(height: (value: number) => number, at: number, from: number, to: number, stride: number): number {
  let [low, high] = [from, Math.min(to, from + stride)];
  let [below, above] = [height(low), height(high)];
  while (above < at && high < to) {
    [low, below] = [high, above];
    high = Math.min(to, high + (high - from));
    above = height(high);
  }
  const halve = (middle: number) => {
    const reached = height(middle);
    if (reached >= at) [high, above] = [middle, reached];
    else [low, below] = [middle, reached];
  };
  for (let round = 0; round < 3 && above > below; round += 1) {
    const guess = low + (high - low) * ((at - below) / (above - below));
    if (guess > low && guess < high) halve(guess);
  }
  // The line comes from one side: a step to the other leaves a few last bits between them.
  const near = Math.abs(high) * 2 ** -44;
  if (high - near > low) halve(high - near);
  if (low + near < high) halve(low + near);
  for (let round = 0; round < 1100; round += 1) {
    const middle = low + (high - low) / 2;
    if (middle <= low || middle >= high) break;
    halve(middle);
  }
  return high;
}
