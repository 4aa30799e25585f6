import { z } from 'zod';
import type { Problem } from '../errors.ts';
import type { Rate } from './rate.ts';
import { fitLines, onLine, type Stretch } from './line.ts';

/** At a frame of the result a frame of the source stands. */
export const timeKeySchema = z.object({
  /** A frame number of the source. */
  from: z.int().min(-100_000_000).max(100_000_000),
  /** A frame of the result, counted from 0. */
  to: z.int().min(-10_000_000).max(10_000_000),
});
export type TimeKey = z.infer<typeof timeKeySchema>;

/** Which frame of the source stands at which frame of the result, by keys; the result goes from the first key to the last. */
export const curveSchema = z
  .object({
    keys: z.array(timeKeySchema).max(10_000),
    /** Straight from key to key, or bent so that the speed changes without a jump; never beyond a key. */
    bend: z.enum(['straight', 'smooth']).default('straight'),
    /** Whether the source may run backward. */
    backward: z.boolean().default(false),
  })
  .strict();
export type RetimeCurve = z.infer<typeof curveSchema>;

/** Positions between frames are told in so many parts of a frame. */
export const frameParts = 1024;

/** The most frames that a curve may give. */
const mostResults = 10_000_000;

/** What is wrong with a curve. @param span the source's first and last frame */
export function curveProblems(
  { keys, backward }: RetimeCurve,
  span: { first: number; last: number } | undefined,
): Problem[] {
  const problems: Problem[] = [];
  const add = (code: string, fact: string, wayOut: string) =>
    problems.push({ code, fact, wayOut, subject: 'time.curve' });
  if (keys.length < 2) {
    add(
      'curve-too-short',
      `A retime curve with ${keys.length === 1 ? 'one key' : 'no key'} says nothing.`,
      'Set two keys or more: where the result begins and where it ends.',
    );
    return problems;
  }
  keys.forEach((key, at) => {
    const before = keys[at - 1];
    if (span && (key.from < span.first || key.from > span.last))
      add(
        'key-outside',
        `Key ${at + 1} uses frame ${key.from}, but the source has only ${span.first} to ${span.last}.`,
        'Choose a frame that is there.',
      );
    if (!before) return;
    if (key.to <= before.to)
      add(
        'key-order',
        `Key ${at + 1} is at frame ${key.to} of the result, and the key before it at ${before.to}.`,
        'Place each key later in the result than the key before it.',
      );
    if (key.from < before.from && !backward)
      add(
        'runs-backward',
        `From key ${at} to key ${at + 1} the source would run backward, from frame ${before.from} to ${key.from}.`,
        'Allow it to run backward, or choose a later frame.',
      );
  });
  if (keys[keys.length - 1]!.to - keys[0]!.to >= mostResults)
    add(
      'curve-too-long',
      `The curve gives more than ${mostResults.toLocaleString('en-GB')} frames.`,
      'Set the last key earlier.',
    );
  return problems;
}

/** A fraction, its denominator above 0. */
type Fraction = readonly [num: bigint, den: bigint];

/**
 * The speed at each key of a smooth curve, in source frames a result frame: zero where direction turns or stands, else the harmonic
 * mean of the speeds beside it, weighed by how long they last (F. N. Fritsch and J. Butland, A method for constructing local
 * monotone piecewise cubic interpolants, SIAM J. Sci. Stat. Comput. 5, 1984). At the ends it is that of the part itself.
 */
function speedsAt(keys: readonly TimeKey[]): Fraction[] {
  const parts = keys
    .slice(1)
    .map((key, at) => ({ d: BigInt(key.from - keys[at]!.from), h: BigInt(key.to - keys[at]!.to) }));
  return keys.map((_, at) => {
    const [left, right] = [parts[at - 1], parts[at]];
    if (!left) return [right!.d, right!.h] as const;
    if (!right) return [left.d, left.h] as const;
    if (left.d * right.d <= 0n) return [0n, 1n] as const;
    // (w1 + w2) / (w1 / s1 + w2 / s2) with w1 = 2 h2 + h1, w2 = h2 + 2 h1 and s = d / h.
    const w1 = 2n * right.h + left.h;
    const w2 = right.h + 2n * left.h;
    const num = (w1 + w2) * left.d * right.d;
    const den = w1 * left.h * right.d + w2 * right.h * left.d;
    return den < 0n ? ([-num, -den] as const) : ([num, den] as const);
  });
}

/**
 * Stretches of a bent part, to the nearest part of a frame, exact: doubles decide where they can, big integers where the position
 * is all but in the middle between two.
 * @param parts parts of a frame that positions are told in
 */
function bentPart(
  a: TimeKey,
  b: TimeKey,
  [n0, d0]: Fraction,
  [n1, d1]: Fraction,
  parts: number,
  round: 'near' | 'down',
): Stretch[] {
  const count = b.to - a.to;
  const values = new Float64Array(count);
  const into = new Float64Array(count);
  const [h, d] = [count, b.from - a.from];
  const [m0, m1] = [Number(n0) / Number(d0), Number(n1) / Number(d1)];
  const shift = round === 'near' ? 0.5 : 0;
  // Relative to the size of the terms; each is built of a handful of roundings.
  const unsure = 1e-12 * parts * (Math.abs(d) + h * (Math.abs(m0) + Math.abs(m1))) + 1e-9;
  for (let s = 0; s < count; s += 1) {
    const u = s / h;
    const v = 1 - u;
    // Cubic Hermite form.
    const off = (u * u * (3 - 2 * u) * d + h * u * v * (m0 * v - m1 * u)) * parts + shift;
    const whole = Math.floor(off);
    into[s] = off - whole;
    values[s] =
      off - whole < unsure || whole + 1 - off < unsure
        ? exactOff(BigInt(s), BigInt(h), BigInt(d), [n0, d0], [n1, d1], BigInt(parts), round)
        : whole;
    values[s]! += a.from * parts;
  }
  return fitLines(values, into);
}

/** One position of a bent part from its first key, with big integers. */
function exactOff(
  s: bigint,
  h: bigint,
  d: bigint,
  [n0, d0]: Fraction,
  [n1, d1]: Fraction,
  parts: bigint,
  round: 'near' | 'down',
): number {
  const t = h - s;
  // Over h^3 * d0 * d1.
  const over = h * h * h * d0 * d1;
  const sum = s * s * (3n * h - 2n * s) * d * d0 * d1 + h * s * t * (n0 * d1 * t - n1 * d0 * s);
  const num = round === 'near' ? 2n * sum * parts + over : sum * parts;
  const den = round === 'near' ? 2n * over : over;
  const cut = num / den;
  return Number(num % den < 0n ? cut - 1n : cut);
}

/**
 * The source position of each result of a curve, in `parts` of a frame, as few even stretches as there are. The keys are in order
 * ({@link curveProblems} says so).
 * @param round to the nearest part, a half upwards, or down to the one that has begun
 */
export function curveStretches({ keys, bend }: RetimeCurve, parts: number, round: 'near' | 'down'): Stretch[] {
  const stretches: Stretch[] = [];
  const speeds = bend === 'smooth' ? speedsAt(keys) : [];
  keys.slice(1).forEach((b, at) => {
    const a = keys[at]!;
    const [d, h] = [b.from - a.from, b.to - a.to];
    const [before, after] = [speeds[at], speeds[at + 1]];
    const isEven =
      !before ||
      !after ||
      (before[0] * BigInt(h) === before[1] * BigInt(d) && after[0] * BigInt(h) === after[1] * BigInt(d));
    if (isEven)
      stretches.push({
        line: {
          from: a.from * parts,
          step: 2 * d * parts,
          phase: round === 'near' ? h : 0,
          den: 2 * h,
        },
        count: h,
      });
    else stretches.push(...bentPart(a, b, before, after, parts, round));
  });
  const last = keys[keys.length - 1]!;
  return [...stretches, { line: { from: last.from * parts, step: 0 }, count: 1 }];
}

/**
 * How quickly the source runs at frames of the result: 1 is as it was made, 0 stands, below 0 runs backward.
 * @param rates of the source's pictures and of the results
 */
export function speedAlong(
  { keys, bend }: RetimeCurve,
  rates?: { pictures: Rate; results: Rate },
): (to: number) => number {
  const speeds = bend === 'smooth' ? speedsAt(keys).map(([num, den]) => Number(num) / Number(den)) : [];
  const factor = rates ? (rates.results.num * rates.pictures.den) / (rates.results.den * rates.pictures.num) : 1;
  return (to) => {
    const begun = keys.findLastIndex((key) => key.to <= to);
    const place = Math.min(keys.length - 2, Math.max(0, begun));
    const [a, b] = [keys[place]!, keys[place + 1]!];
    const [d, h] = [b.from - a.from, b.to - a.to];
    if (bend === 'straight') return (d / h) * factor;
    const u = Math.min(1, Math.max(0, (to - a.to) / h));
    const speed =
      (6 * u * (1 - u) * d) / h + speeds[place]! * (1 - u) * (1 - 3 * u) - speeds[place + 1]! * u * (2 - 3 * u);
    return speed * factor;
  };
}

/** Places on a curve for drawing it: result frame, source frame with its share, speed; at most about so many, the keys among them. */
export function curvePoints(
  curve: RetimeCurve,
  most: number,
  rates?: { pictures: Rate; results: Rate },
): { to: number; from: number; speed: number }[] {
  const { keys } = curve;
  if (keys.length < 2 || keys.some((key, at) => at > 0 && key.to <= keys[at - 1]!.to)) return [];
  const first = keys[0]!.to;
  const length = keys[keys.length - 1]!.to - first + 1;
  const every = Math.max(1, Math.ceil(length / most));
  const wanted = new Set(keys.map(({ to }) => to));
  const points: { to: number; from: number; speed: number }[] = [];
  const speedAt = speedAlong(curve, rates);
  let at = 0;
  for (const { line, count } of curveStretches(curve, frameParts, 'near')) {
    for (let k = 0; k < count; k += 1, at += 1)
      if (at % every === 0 || wanted.has(first + at))
        points.push({ to: first + at, from: onLine(line, k) / frameParts, speed: speedAt(first + at) });
  }
  return points;
}
