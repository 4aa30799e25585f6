import { z } from 'zod';
import { frameSpan, type Source } from '../numbering/source.ts';
import { frameOfRun, numberOfRun, placeIn, placeOfFrame } from './places.ts';
import { planRunSchema, type PlanRun } from './plan.ts';
import type { Rate } from '../timing/rate.ts';

const offset = z.int().min(-100_000_000).max(100_000_000);

/**
 * Which frame of a second source goes with a frame of the first: the same number moved by an offset, the one that is on screen at the same
 * time counted from both first frames (and moved), or the result that a plan makes of it (`back`: the source frame that a result is made of).
 */
export const alignmentSchema = z.discriminatedUnion('by', [
  z.object({ by: z.literal('number'), offset }),
  z.object({ by: z.literal('time'), offset }),
  z.object({ by: z.literal('plan'), runs: z.array(planRunSchema), back: z.boolean().default(false) }),
]);
export type Alignment = z.infer<typeof alignmentSchema>;

/** First frame and rate of a source, as time is counted. */
export interface Timed {
  first: number;
  rate: Rate | null;
}

/** First frame of a source that has frames; 0 of all others. */
export const timedOf = (source: Pick<Source, 'coverage'>, rate: Rate | null): Timed => ({
  first: frameSpan(source.coverage)?.first ?? 0,
  rate,
});

/**
 * The frame of the second source that goes with `frame` of the first; undefined where a plan makes none of it. By time it is
 * `floor((frame - first) x rate of b / rate of a)` from the second's first, exactly; without both rates it counts frames.
 */
export function alignedFrame(alignment: Alignment, frame: number, a: Timed, b: Timed): number | undefined {
  if (alignment.by === 'plan')
    return alignment.back ? sourceOf(alignment.runs, frame) : resultOf(alignment.runs, frame);
  if (alignment.by === 'number') return frame + alignment.offset;
  const since = frame - a.first;
  if (!a.rate || !b.rate) return b.first + since + alignment.offset;
  const frames = BigInt(since) * BigInt(a.rate.den) * BigInt(b.rate.num);
  return b.first + Number(floorDivide(frames, BigInt(a.rate.num) * BigInt(b.rate.den))) + alignment.offset;
}

/** Division towards the smaller number, the divisor being above 0. */
function floorDivide(value: bigint, by: bigint): bigint {
  const quotient = value / by;
  return value % by < 0n ? quotient - 1n : quotient;
}

/** The first result that a plan writes of a frame of its source. */
function resultOf(runs: readonly PlanRun[], frame: number): number | undefined {
  for (const run of runs) {
    const at = run.kind === 'write' && !run.shot ? placeOfFrame(run, frame) : undefined;
    if (at !== undefined) return numberOfRun(run, at);
  }
  return undefined;
}

/** The frame of the source that a plan makes a result of. */
function sourceOf(runs: readonly PlanRun[], number: number): number | undefined {
  for (const run of runs) {
    if (run.kind !== 'write' || run.shot) continue;
    const at = placeIn(run.to, run.toStep, run.count, number);
    if (at !== undefined) return frameOfRun(run, at).frame;
  }
  return undefined;
}
