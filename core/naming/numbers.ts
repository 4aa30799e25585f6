import { coverageCount, framesOf, type FrameRange } from '../numbering/ranges.ts';
import type { RuleOf } from './rules.ts';
import { gcd } from '../timing/rate.ts';

/** The numbers' own step: the greatest that leads from the first to every other. 1 for a single frame. */
export function stepOf(coverage: readonly FrameRange[]): number {
  let step = 0;
  for (const range of coverage) {
    if (range.last > range.first) step = gcd(step, range.step);
    step = gcd(step, range.first - coverage[0]!.first);
  }
  return step || 1;
}

/** Frame numbers of a source, ascending. */
export function numbersOf(coverage: readonly FrameRange[]): Float64Array {
  const numbers = new Float64Array(coverageCount(coverage));
  let at = 0;
  for (const frame of framesOf(coverage)) numbers[at++] = frame;
  return numbers;
}

/**
 * Numbers by a rule: `first + (n - n0) / own * step`, or counted on without holes where gaps are closed.
 * @param own the step that the numbers have now
 * @param first what the first becomes; the rule's own, or what comes after the source before
 */
export function renumber(
  numbers: Float64Array,
  { step, gaps }: Pick<RuleOf<'number'>, 'step' | 'gaps'>,
  own: number,
  first: number,
): Float64Array {
  const wide = step ?? (gaps === 'close' ? 1 : own);
  return gaps === 'close'
    ? numbers.map((_, at) => first + at * wide)
    : numbers.map((number) => first + ((number - numbers[0]!) / own) * wide);
}

/** Digits that the greatest of some numbers needs, without its sign. */
export function digitsFor(lists: readonly Float64Array[]): number {
  let most = 0;
  for (const numbers of lists)
    if (numbers.length > 0) most = Math.max(most, Math.abs(numbers[0]!), Math.abs(numbers[numbers.length - 1]!));
  return String(most).length;
}
