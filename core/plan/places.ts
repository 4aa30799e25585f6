import { frameParts } from '../timing/curve.ts';
import { onLine } from '../timing/line.ts';
import type { PlanRun } from './plan.ts';

/** A second frame that goes into a result: woven in by lines, or at `weight` of {@link frameParts} on the way to it. */
export interface Mixed {
  how: 'blend' | 'motion' | 'lines';
  frame: number;
  weight: number;
}

/** Which source frame a result of a run is made of, and what is mixed into it. */
export function frameOfRun(run: PlanRun, at: number): { frame: number; mixed?: Mixed } {
  const { from, fromStep: step, stride = 1, phase, den, repeat, mix } = run;
  const place = onLine({ from: 0, step, phase, den, repeat }, at);
  if (mix === undefined) return { frame: from + stride * place };
  if (mix === 'lines') {
    const frame = from + stride * place;
    const other = run.other! + stride * onLine({ from: 0, step, phase: run.otherPhase, den, repeat }, at);
    return other === frame ? { frame } : { frame, mixed: { how: 'lines', frame: other, weight: 0 } };
  }
  const whole = Math.floor(place / frameParts);
  const frame = from + stride * whole;
  const weight = place - whole * frameParts;
  return weight === 0 ? { frame } : { frame, mixed: { how: mix, frame: frame + stride, weight } };
}

/** The first result of a run that is made of a source frame, counted from the run's first; undefined where none is. */
export function placeOfFrame(run: PlanRun, frame: number): number | undefined {
  const { from, fromStep, count, den, repeat, mix, stride } = run;
  if (!den && !repeat && !mix && stride === undefined) return placeIn(from, fromStep, count, frame);
  for (let at = 0; at < count; at += 1) if (frameOfRun(run, at).frame === frame) return at;
  return undefined;
}

/** Where a number stands in a row of numbers; undefined where it is not of them. All of them may be the same. */
export function placeIn(first: number, step: number, count: number, number: number): number | undefined {
  if (step === 0) return number === first ? 0 : undefined;
  const at = (number - first) / step;
  return Number.isInteger(at) && at >= 0 && at < count ? at : undefined;
}

/**
 * By how much the numbers of results are above those of their frames; undefined where that is not one number for all: other shots, frames that
 * are held, mixed or told in another pace.
 */
export function numbersMovedBy(runs: readonly PlanRun[]): number | undefined {
  const [first] = runs;
  if (!first) return 0;
  const shift = first.to - first.from;
  const isOne = runs.every(
    ({ from, fromStep, to, toStep, count, shot, den, repeat, mix }) =>
      to - from === shift && (fromStep === toStep || count === 1) && !shot && !den && !repeat && !mix,
  );
  return isOne ? shift : undefined;
}

/** The number of a result of a run. */
export const numberOfRun = ({ to, toStep }: PlanRun, at: number): number => to + at * toStep;
