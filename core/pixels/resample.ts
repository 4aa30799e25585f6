import type { Filter, Size } from './picture.ts';

/** Floats of a picture, pixels interleaved. */
export interface Floats extends Size {
  /** Samples of a pixel. */
  stride: number;
  data: Float32Array;
}

const sinc = (x: number): number => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x));

/** Weight by distance in source pixels, and the distance beyond which it is 0. */
const kernels: Record<Exclude<Filter, 'nearest' | 'area'>, { reach: number; weight: (distance: number) => number }> = {
  bilinear: { reach: 1, weight: (x) => Math.max(0, 1 - x) },
  // Keys, "Cubic convolution interpolation for digital image processing" (1981), a = -1/2.
  bicubic: {
    reach: 2,
    weight: (x) => (x < 1 ? (1.5 * x - 2.5) * x * x + 1 : x < 2 ? ((-0.5 * x + 2.5) * x - 4) * x + 2 : 0),
  },
  // Duchon, "Lanczos filtering in one and two dimensions" (1979), three lobes.
  lanczos: { reach: 3, weight: (x) => (x < 3 ? sinc(x) * sinc(x / 3) : 0) },
};

/** For each result along one side: the first source sample it takes, and the weights from there on, their sum being 1. */
export interface Taps {
  first: Int32Array;
  count: number;
  weights: Float64Array;
}

/** How much of source pixel `at` lies between two places. */
const covered = (at: number, from: number, to: number): number =>
  Math.max(0, Math.min(at + 1, to) - Math.max(at, from));

/**
 * Where a side shrinks, the kernel widens with it, so that every source sample counts. At the border the kernel is cut and
 * what is left of it sums to 1 again.
 */
export function tapsOf(from: number, to: number, filter: Exclude<Filter, 'nearest'>): Taps {
  const step = from / to;
  const widened = Math.max(1, step);
  const reach = filter === 'area' ? step / 2 : kernels[filter].reach * widened;
  const count = Math.min(from, Math.ceil(reach * 2) + 2);
  const first = new Int32Array(to);
  const weights = new Float64Array(to * count);
  for (let at = 0; at < to; at += 1) {
    const middle = (at + 0.5) * step;
    const start = Math.min(Math.max(0, Math.floor(middle - reach)), from - count);
    first[at] = start;
    let sum = 0;
    for (let tap = 0; tap < count; tap += 1) {
      const source = start + tap;
      const weight =
        filter === 'area'
          ? covered(source, middle - reach, middle + reach)
          : kernels[filter].weight(Math.abs(source + 0.5 - middle) / widened);
      weights[at * count + tap] = weight;
      sum += weight;
    }
    for (let tap = 0; tap < count; tap += 1) weights[at * count + tap]! /= sum;
  }
  return { first, count, weights };
}

/** One pass over a picture: across its rows, or down its columns. Sums are of doubles, in the order of the taps. */
export type ResamplePass = (source: Floats, taps: Taps, way: 'across' | 'down') => Float32Array;

const plainPass: ResamplePass = (source, taps, way) => (way === 'across' ? across(source, taps) : down(source, taps));

/** Taps of the sizes that were asked for last: all pictures of a plan have the same. */
const keptTaps = new Map<string, Taps>();

export function tapsFor(from: number, to: number, filter: Exclude<Filter, 'nearest'>): Taps {
  const key = `${from} ${to} ${filter}`;
  let taps = keptTaps.get(key);
  if (!taps) {
    if (keptTaps.size >= 16) keptTaps.clear();
    keptTaps.set(key, (taps = tapsOf(from, to, filter)));
  }
  return taps;
}

/**
 * Resizes by two passes, across and then down. Colours with alpha are to be premultiplied before.
 * @param pass a compiled form of them, which gives the same
 */
export function resample(
  source: Floats,
  { width, height }: Size,
  filter: Exclude<Filter, 'nearest'>,
  pass: ResamplePass = plainPass,
): Floats {
  const wide =
    source.width === width
      ? source
      : { ...sized(source, width, source.height), data: pass(source, tapsFor(source.width, width, filter), 'across') };
  return wide.height === height
    ? wide
    : { ...sized(wide, width, height), data: pass(wide, tapsFor(wide.height, height, filter), 'down') };
}

const sized = ({ stride }: Floats, width: number, height: number) => ({ width, height, stride });

function across({ width, height, stride, data: source }: Floats, { first, count, weights }: Taps): Float32Array {
  const to = first.length;
  const data = new Float32Array(to * height * stride);
  for (let y = 0, at = 0; y < height; y += 1) {
    const row = y * width * stride;
    for (let x = 0; x < to; x += 1) {
      const begin = row + first[x]! * stride;
      const tap0 = x * count;
      if (stride === 4) {
        // All four at once: the weight is fetched once, and nothing is counted but taps.
        let [a, b, c, d] = [0, 0, 0, 0];
        for (let tap = 0, from = begin; tap < count; tap += 1, from += 4) {
          const weight = weights[tap0 + tap]!;
          a += source[from]! * weight;
          b += source[from + 1]! * weight;
          c += source[from + 2]! * weight;
          d += source[from + 3]! * weight;
        }
        data[at] = a;
        data[at + 1] = b;
        data[at + 2] = c;
        data[at + 3] = d;
        at += 4;
        continue;
      }
      for (let channel = 0; channel < stride; channel += 1, at += 1) {
        let sum = 0;
        for (let tap = 0, from = begin + channel; tap < count; tap += 1, from += stride)
          sum += source[from]! * weights[tap0 + tap]!;
        data[at] = sum;
      }
    }
  }
  return data;
}

function down({ width, stride, data: source }: Floats, { first, count, weights }: Taps): Float32Array {
  const to = first.length;
  const row = width * stride;
  const data = new Float32Array(to * row);
  // Doubles keep the sum of a row's taps as exact as the other pass has it.
  const sums = new Float64Array(row);
  for (let y = 0; y < to; y += 1) {
    sums.fill(0);
    for (let tap = 0; tap < count; tap += 1) {
      const weight = weights[y * count + tap]!;
      if (weight === 0) continue;
      const from = (first[y]! + tap) * row;
      for (let at = 0; at < row; at += 1) sums[at]! += source[from + at]! * weight;
    }
    data.set(sums, y * row);
  }
  return data;
}
