import { plural } from '../../words.ts';
import { coverageCount, coverageOf, printCoverage, type FrameRange } from '../ranges.ts';

/** `is` or `are`. */
export const are = (count: number): string => (count === 1 ? 'is' : 'are');

export const capital = (text: string): string => text[0]!.toUpperCase() + text.slice(1);

/** `frame 37`, `frames 37, 40-42` or `12 frames`, whichever a person reads faster. */
export function naming(ranges: readonly FrameRange[]): string {
  const count = coverageCount(ranges);
  if (count === 1) return `frame ${ranges[0]!.first}`;
  return ranges.length <= 3
    ? `frames ${printCoverage(ranges).replaceAll(',', ', ')}`
    : `${count.toLocaleString('en-GB')} frames`;
}

/** The frames at some places of a column, as ranges. */
export const framesAt = (frames: ArrayLike<number>, places: ArrayLike<number>): FrameRange[] =>
  coverageOf(Array.from(places, (place) => frames[place]!));

/** `9 days`, `5 hours`, `20 minutes`. */
export function span(milliseconds: number): string {
  const minutes = Math.round(milliseconds / 60_000);
  if (minutes < 90) return plural(minutes, 'minute');
  if (minutes < 48 * 60) return plural(Math.round(minutes / 60), 'hour');
  return plural(Math.round(minutes / 1440), 'day');
}

/** The middle value; of an even count the lower of the two. Sorts its argument. */
export function median(values: Float64Array): number {
  return values.sort()[(values.length - 1) >> 1]!;
}
