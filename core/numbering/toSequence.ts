import { frameName, type Pattern } from './pattern.ts';
import { coverageOf } from './ranges.ts';
import { longestRun } from './runs.ts';
import { numberIn, scanName } from './scanName.ts';
import type { IrregularFrame, Sequence } from './sequence.ts';

/** Whether digits are written at a padding: just as wide, or wider because the number outgrew it. */
const isPadded = (width: number, leadingZero: boolean, padding: number): boolean =>
  width === padding || (width > padding && !leadingZero);

/** The padding that most of the digits are written at; the widest on a tie. `zero` and `plain` count names by width. */
function commonPadding(zero: Uint32Array, plain: Uint32Array): number {
  const kept = (padding: number): number => {
    let sum = zero[padding]! + plain[padding]!;
    for (let width = padding + 1; width < plain.length; width += 1) sum += plain[width]!;
    return sum;
  };
  let best = 1;
  let most = -1;
  for (let width = plain.length - 1; width >= 1; width -= 1) {
    if (zero[width]! + plain[width]! === 0 || kept(width) <= most) continue;
    most = kept(width);
    best = width;
  }
  return best;
}

/** Positions 0..n-1 in ascending order of their frames; those of one frame in their own order. */
function ascending(frames: Float64Array): Uint32Array {
  let least = Infinity;
  let most = -Infinity;
  for (const frame of frames) {
    if (frame < least) least = frame;
    if (frame > most) most = frame;
  }
  const span = most - least + 1;
  // Numbers that lie close take their place by counting; a sort of a million would take a second.
  if (span <= 4 * frames.length + 1024) {
    const places = new Uint32Array(span);
    let twice = false;
    for (let at = 0; at < frames.length; at += 1) {
      const slot = frames[at]! - least;
      twice ||= places[slot] !== 0;
      places[slot] = at + 1;
    }
    if (!twice) {
      let kept = 0;
      for (let slot = 0; slot < span; slot += 1) {
        const place = places[slot]!;
        if (place !== 0) places[kept++] = place - 1;
      }
      return places.subarray(0, kept);
    }
    const starts = new Uint32Array(span + 1);
    for (const frame of frames) starts[frame - least + 1]! += 1;
    for (let at = 1; at <= span; at += 1) starts[at]! += starts[at - 1]!;
    const order = new Uint32Array(frames.length);
    for (let at = 0; at < frames.length; at += 1) {
      const slot = frames[at]! - least;
      order[starts[slot]!] = at;
      starts[slot]! += 1;
    }
    return order;
  }
  return Uint32Array.from({ length: frames.length }, (_, at) => at).sort((a, b) => frames[a]! - frames[b]! || a - b);
}

/** What stands before and behind a run of a name. */
function around(name: string, run: number): { prefix: string; suffix: string } {
  const { start, end } = scanName(name);
  return { prefix: name.slice(0, start[run]), suffix: name.slice(end[run]) };
}

/** The text around their numbers that most of the names have. */
function commonText(names: readonly string[], members: readonly number[], run: number) {
  const counts = new Map<string, { prefix: string; suffix: string; count: number }>();
  let best = { ...around(names[members[0]!]!, run), count: 0 };
  for (const index of members) {
    const { prefix, suffix } = around(names[index]!, run);
    const key = `${prefix}\0${suffix}`;
    const held = counts.get(key) ?? { prefix, suffix, count: 0 };
    held.count += 1;
    counts.set(key, held);
    if (held.count > best.count) best = held;
  }
  return { prefix: best.prefix, suffix: best.suffix };
}

/**
 * Names that differ in one run as a sequence; undefined where they hold no number that is exact.
 * The name that the pattern gives goes before any other of the same number, so that it holds the frame.
 * @param members indices of the names, at least one
 * @param uniform whether their text around the digits is the same to the letter
 */
export function toSequence(
  names: readonly string[],
  members: readonly number[],
  run: number,
  uniform: boolean,
): Sequence | undefined {
  const count = members.length;
  const numbers = new Float64Array(count);
  const widths = new Uint8Array(count);
  const zeros = new Uint8Array(count);
  const zero = new Uint32Array(longestRun + 1);
  const plain = new Uint32Array(longestRun + 1);
  // Where all else is the same to the letter, the number stands at one distance from both ends.
  const first = names[members[0]!]!;
  const placed = scanName(first);
  const head = placed.start[run]!;
  const tail = first.length - placed.end[run]!;
  for (let at = 0; at < count; at += 1) {
    const name = names[members[at]!]!;
    let from = head;
    let to = name.length - tail;
    if (!uniform) {
      const { start, end } = scanName(name);
      from = start[run]!;
      to = end[run]!;
    }
    const number = numberIn(name, from, to);
    if (name.charCodeAt(from) === 45) from += 1;
    const width = to - from;
    if (width > longestRun) return undefined;
    const leads = name.charCodeAt(from) === 48 && width > 1;
    numbers[at] = number;
    widths[at] = width;
    zeros[at] = leads ? 1 : 0;
    if (leads) zero[width]! += 1;
    else plain[width]! += 1;
  }
  const padding = commonPadding(zero, plain);
  const text = uniform ? around(names[members[0]!]!, run) : commonText(names, members, run);
  const pattern: Pattern = { prefix: text.prefix, padding, suffix: text.suffix };
  const isRegular = (at: number): boolean =>
    isPadded(widths[at]!, zeros[at] === 1, padding) &&
    // Letters may differ, and -0 is a name of its own beside 0.
    ((uniform && numbers[at] !== 0) || names[members[at]!] === frameName(pattern, numbers[at]!));

  let regular = plain[padding]! + zero[padding]!;
  for (let width = padding + 1; width <= longestRun; width += 1) regular += plain[width]!;
  // Nearly every folder: all as the pattern says, and no name needs a second look.
  const allRegular = uniform && regular === count && !numbers.includes(0);

  const order = ascending(numbers);
  const frames = new Float64Array(count);
  const files = new Uint32Array(count);
  const irregular: IrregularFrame[] = [];
  const doubled: IrregularFrame[] = [];
  let kept = 0;
  for (let from = 0; from < count;) {
    const frame = numbers[order[from]!]!;
    let to = from + 1;
    while (to < count && numbers[order[to]!] === frame) to += 1;
    let holder = from;
    if (to - from > 1) {
      for (let at = from; at < to; at += 1) if (isRegular(order[at]!)) holder = at;
      for (let at = from; at < to; at += 1)
        if (at !== holder) doubled.push({ frame, name: names[members[order[at]!]!]! });
    }
    if (!allRegular && !isRegular(order[holder]!)) irregular.push({ frame, name: names[members[order[holder]!]!]! });
    frames[kept] = frame;
    files[kept] = members[order[holder]!]!;
    kept += 1;
    from = to;
  }
  const held = frames.subarray(0, kept);
  return { pattern, coverage: coverageOf(held), frames: held, files: files.subarray(0, kept), irregular, doubled };
}
