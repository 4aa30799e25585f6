import { mulDiv } from './exact.ts';

/**
 * Whole numbers that follow one another as evenly as whole numbers can: the k-th is `from + floor((phase + k * step) / den)`.
 * With `repeat` each stands so many times in a row before the next comes. So 24 frames in 25, every second frame held for two and
 * a part that runs backward are one line each, however many frames they are.
 */
export interface Line {
  from: number;
  /** Any whole number; below 0 it runs backward. */
  step: number;
  /** 0 or more, 0 where it is not given. */
  phase?: number;
  /** 1 or more, 1 where it is not given. */
  den?: number;
  /** 1 or more, 1 where it is not given. */
  repeat?: number;
}

/** The number at a place of a line, from 0, exact: products beyond 2^53 are worked with big integers. */
export function onLine({ from, step, phase = 0, den = 1, repeat = 1 }: Line, at: number): number {
  const place = repeat === 1 ? at : Math.floor(at / repeat);
  const sum = phase + place * step;
  if (Number.isSafeInteger(sum)) return from + Math.floor(sum / den);
  const { whole, rest } = mulDiv(place, step, den);
  return from + whole + Math.floor((phase + rest) / den);
}

/** Whole positions on a source for so many results in a row. */
export interface Stretch {
  line: Line;
  count: number;
}

/** The part of a stretch from one place on; a place within a repeat begins with what is left of it. */
export function stretchFrom({ line, count }: Stretch, start: number): Stretch[] {
  const { step, phase = 0, den = 1, repeat = 1, from } = line;
  const within = start % repeat;
  const rest = within === 0 ? 0 : Math.min(repeat - within, count - start);
  const parts: Stretch[] = rest > 0 ? [{ line: { from: onLine(line, start), step: 0 }, count: rest }] : [];
  const at = start + rest;
  if (at >= count) return parts;
  const { whole, rest: over } = mulDiv(Math.floor(at / repeat), step, den);
  const more = Math.floor((phase + over) / den);
  const moved = { ...line, from: from + whole + more, phase: phase + over - more * den };
  return [...parts, { line: moved, count: count - at }];
}

/** The stretches of the results `start` to `end` (not included). */
export function cutStretches(stretches: readonly Stretch[], start: number, end: number): Stretch[] {
  const kept: Stretch[] = [];
  let at = 0;
  for (const stretch of stretches) {
    const from = Math.max(0, start - at);
    const to = Math.min(stretch.count, end - at);
    if (from < to) kept.push(...stretchFrom({ ...stretch, count: to }, from));
    at += stretch.count;
  }
  return kept;
}

/** A stretch from its end to its beginning. */
function reversed({ line, count }: Stretch): Stretch[] {
  const { from, step, phase = 0, den = 1, repeat = 1 } = line;
  const groups = Math.floor(count / repeat);
  const rest = count - groups * repeat;
  // What is left of the last group comes first then.
  const left: Stretch[] = rest > 0 ? [{ line: { from: onLine(line, count - 1), step: 0 }, count: rest }] : [];
  if (groups === 0) return left;
  const { whole, rest: over } = mulDiv(groups - 1, step, den);
  const more = Math.floor((phase + over) / den);
  const back = { ...line, from: from + whole + more, step: -step, phase: phase + over - more * den };
  return [...left, { line: back, count: groups * repeat }];
}

/** Stretches, and once more from the last result but one back to the second: played again and again, no picture comes twice in a row. */
export function thereAndBack(stretches: readonly Stretch[]): Stretch[] {
  const within = cutStretches(stretches, 1, stretchCount(stretches) - 1);
  return [...stretches, ...within.reverse().flatMap(reversed)];
}

export const stretchCount = (stretches: readonly Stretch[]): number =>
  stretches.reduce((sum, { count }) => sum + count, 0);

/** Each result stands for so many: of every `each` results the first is kept and shown for all of them. */
export function standing(stretches: readonly Stretch[], each: number): Stretch[] {
  if (each === 1) return [...stretches];
  const stood: Stretch[] = [];
  // The place in a group at which a stretch begins.
  let into = 0;
  let shown = 0;
  for (const { line, count } of stretches) {
    let at = 0;
    if (into > 0) {
      at = Math.min(each - into, count);
      stood.push({ line: { from: shown, step: 0 }, count: at });
      into = (into + at) % each;
    }
    if (at === count) continue;
    const [rest, ...more] = stretchFrom({ line, count }, at);
    const repeat = line.repeat ?? 1;
    if (more.length === 0 && repeat === 1)
      stood.push({ line: { ...rest!.line, step: rest!.line.step * each, repeat: each }, count: count - at });
    else
      for (let k = at; k < count; k += each)
        stood.push({ line: { from: onLine(line, k), step: 0 }, count: Math.min(each, count - k) });
    into = (count - at) % each;
    shown = onLine(line, count - (into === 0 ? each : into));
  }
  return stood;
}

/** How finely the place within its number is told at which a line begins. */
const finely = 4096;

/**
 * Whole numbers as lines, each as long as it goes: an exact run of equal steps, or, where steps change by one as on a gentle bend, the
 * evenest line through all of them.
 * @param into how far into its number, 0 to below 1, the position is that was rounded to it; the middle where nothing says so
 */
export function fitLines(values: ArrayLike<number>, into?: ArrayLike<number>): Stretch[] {
  const lines: Stretch[] = [];
  for (let start = 0; start < values.length;) {
    const first = values[start]!;
    const phase = into ? Math.min(finely - 1, Math.max(0, Math.round(into[start]! * finely))) : finely / 2;
    // Slopes of all lines from there that keep within each number so far.
    let low = -Infinity;
    let high = Infinity;
    let count = 1;
    for (; start + count < values.length; count += 1) {
      const off = values[start + count]! - first - phase / finely;
      const [least, most] = [off / count, (off + 1) / count];
      if (Math.max(low, least) >= Math.min(high, most)) break;
      low = Math.max(low, least);
      high = Math.min(high, most);
    }
    const line = count === 1 ? { from: first, step: 0 } : evenLine(first, phase, low, high);
    // What rounding may have let through is not kept.
    let sound = 1;
    while (sound < count && onLine(line, sound) === values[start + sound]) sound += 1;
    lines.push({ line, count: sound });
    start += sound;
  }
  return lines;
}

/** The line from a place within a number with the simplest slope between two bounds. */
function evenLine(from: number, phase: number, low: number, high: number): Line {
  const [num, den] = simplestBetween(low, high);
  if (den === 1) return { from, step: num };
  return { from, step: num * finely, phase: phase * den, den: den * finely };
}

/** The fraction of least denominator within two bounds (by continued fractions). */
function simplestBetween(low: number, high: number): [num: number, den: number] {
  const middle = Math.round((low + high) / 2);
  if (middle > low && middle < high) return [middle, 1];
  const whole = Math.floor(low);
  if (whole + 1 < high) return [whole + 1, 1];
  const [num, den] = simplestBetween(1 / (high - whole), low === whole ? 1e9 : 1 / (low - whole));
  return [whole * num + den, num];
}
