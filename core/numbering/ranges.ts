import { z } from 'zod';
import { ShaleError } from '../errors.ts';

export const frameNumber = z.int().min(-Number.MAX_SAFE_INTEGER).max(Number.MAX_SAFE_INTEGER);

/**
 * Frames `first`, `first + step`, ... `last`, all whole numbers, `first <= last`, `step >= 1`,
 * `last - first` a multiple of `step`. A single frame has `step` 1.
 */
export interface FrameRange {
  first: number;
  last: number;
  step: number;
}

export const frameRangeSchema = z.object({ first: frameNumber, last: frameNumber, step: z.int().min(1) });

/** Ranges in ascending order that share no frame number and do not interleave. */
export type Coverage = readonly FrameRange[];

/** How many frames a range holds. */
export const rangeCount = (range: FrameRange): number => (range.last - range.first) / range.step + 1;

/** How many frames a coverage holds. */
export const coverageCount = (coverage: Coverage): number =>
  coverage.reduce((count, range) => count + rangeCount(range), 0);

/**
 * The shortest ranges that hold exactly these frame numbers.
 * @param frames whole numbers, ascending, each once
 * A step above 1 is used only where three or more frames in a row keep it.
 */
export function coverageOf(frames: ArrayLike<number>): FrameRange[] {
  const ranges: FrameRange[] = [];
  let at = 0;
  while (at < frames.length) {
    const first = frames[at]!;
    const step = at + 1 < frames.length ? frames[at + 1]! - first : 1;
    let end = at + 1;
    while (end < frames.length && frames[end]! - frames[end - 1]! === step) end += 1;
    const keepsStep = step === 1 || end - at >= 3;
    // A frame that closes a stepped run may open an unbroken one: 1,3,5,7,8,9 is 1-5x2 and 7-9.
    const opensRun = keepsStep && step > 1 && end < frames.length && frames[end]! - frames[end - 1]! === 1;
    if (!keepsStep || (opensRun && end - at - 1 < 3)) {
      ranges.push({ first, last: first, step: 1 });
      at += 1;
      continue;
    }
    const stop = opensRun ? end - 1 : end;
    ranges.push({ first, last: frames[stop - 1]!, step: stop - at === 1 ? 1 : step });
    at = stop;
  }
  return ranges;
}

/** Every frame number of a coverage, ascending. */
export function* framesOf(coverage: Coverage): Generator<number> {
  for (const range of coverage) for (let frame = range.first; frame <= range.last; frame += range.step) yield frame;
}

/** Whether a frame number is in the coverage. */
export function covers(coverage: Coverage, frame: number): boolean {
  let low = 0;
  let high = coverage.length - 1;
  while (low <= high) {
    const middle = (low + high) >> 1;
    const range = coverage[middle]!;
    if (frame < range.first) high = middle - 1;
    else if (frame > range.last) low = middle + 1;
    else return (frame - range.first) % range.step === 0;
  }
  return false;
}

/** Whether a frame number lies between the coverage's first and last, there or not. */
export const frameWithin = (coverage: Coverage, frame: number): boolean =>
  coverage.length > 0 && frame >= coverage[0]!.first && frame <= coverage[coverage.length - 1]!.last;

/** The frame at a position of the coverage, counted from 0; undefined outside it. */
export function frameAt(coverage: Coverage, index: number): number | undefined {
  let left = index;
  for (const range of coverage) {
    const count = rangeCount(range);
    if (left < count) return left < 0 ? undefined : range.first + left * range.step;
    left -= count;
  }
  return undefined;
}

/**
 * The frame numbers between the first and the last that are not there; between stepped frames as stepped ranges.
 * A coverage of one stepped range (every second frame, every tenth) lacks nothing: it was made so.
 */
export function missingFrom(coverage: Coverage): FrameRange[] {
  if (coverage.length === 1) return [];
  const missing: FrameRange[] = [];
  let expected: number | undefined;
  for (const range of coverage) {
    if (expected !== undefined && range.first > expected) {
      missing.push({ first: expected, last: range.first - 1, step: 1 });
    }
    for (let offset = 1; offset < range.step; offset += 1) {
      missing.push({ first: range.first + offset, last: range.last - range.step + offset, step: range.step });
    }
    expected = range.last + 1;
  }
  return missing;
}

/** The frames of `coverage` that lie in `wanted` as well. */
export function intersect(coverage: Coverage, wanted: Coverage): FrameRange[] {
  if (wanted.length === 1 && wanted[0]!.step === 1 && coverage.every((range) => range.step === 1)) {
    const { first, last } = wanted[0]!;
    return coverage
      .filter((range) => range.last >= first && range.first <= last)
      .map((range) => ({ first: Math.max(range.first, first), last: Math.min(range.last, last), step: 1 }));
  }
  const kept: number[] = [];
  for (const frame of framesOf(coverage)) if (covers(wanted, frame)) kept.push(frame);
  return coverageOf(kept);
}

/** `1-36,38-60`, `1-95x2`, `-5--1`; the empty string where there is no frame. */
export function printCoverage(coverage: Coverage): string {
  return coverage
    .map(({ first, last, step }) => (first === last ? `${first}` : `${first}-${last}${step > 1 ? `x${step}` : ''}`))
    .join(',');
}

const rangePattern = /^(-?\d+)(?:-(-?\d+)(?:x(\d+))?)?$/;

/**
 * Reads what {@link printCoverage} prints, in any order and overlapping; spaces are allowed around commas.
 * @throws ShaleError `bad-frame-range` for anything else
 * @example parseCoverage('1-3,7') // [{first: 1, last: 3, step: 1}, {first: 7, last: 7, step: 1}]
 */
export function parseCoverage(text: string): FrameRange[] {
  const ranges = text.split(',').map((part) => {
    const match = rangePattern.exec(part.trim());
    const first = Number(match?.[1]);
    const last = Number(match?.[2] ?? match?.[1]);
    const step = Number(match?.[3] ?? 1);
    if (!match || step < 1 || last < first || last - first > 10_000_000 || !Number.isSafeInteger(first + last)) {
      throw new ShaleError({
        code: 'bad-frame-range',
        fact: `"${part.trim()}" is not a frame range.`,
        wayOut: 'Write frames as 1-60, single frames as 37, steps as 1-95x2, several separated by commas.',
        subject: 'frames',
      });
    }
    return { first, last: first + Math.floor((last - first) / step) * step, step };
  });
  const inOrder = ranges.every((range, index) => index === 0 || range.first > ranges[index - 1]!.last);
  if (inOrder) return ranges.map((range) => (range.first === range.last ? { ...range, step: 1 } : range));
  const frames = new Set<number>();
  for (const frame of framesOf(ranges)) frames.add(frame);
  return coverageOf([...frames].sort((a, b) => a - b));
}
