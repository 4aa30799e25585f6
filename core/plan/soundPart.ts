import { beginnings } from '../timing/clipTimes.ts';
import type { Fraction } from '../sound/placed.ts';
import type { Rate } from '../timing/rate.ts';
import type { Plan } from './plan.ts';
import { ratesOf } from './runs.ts';

/** Which part of a sound goes with results. */
export interface SoundPart {
  /** Where in the sound it begins, in seconds; below 0 silence goes before it. */
  from: Fraction;
  /** Samples of the sound by which it begins later still; below 0 earlier. */
  later: number;
  /** Seconds. */
  length: Rate;
}

/** Pictures before the first one that say what follows. */
export const titleCount = ({ runs }: Pick<Plan, 'runs'>): number =>
  runs.reduce((sum, { kind, count }) => (kind === 'title' ? sum + count : sum), 0);

/** Where in its clip a plan's first picture lies, in seconds; 0 where the sound is not the clip's own. */
function beginning({ source, declaration, spec, sound, ...plan }: Plan): Fraction {
  const at = plan.runs.find(({ kind }) => kind !== 'missing' && kind !== 'title')?.from;
  const { pictures } = ratesOf(source, declaration, spec);
  if (!sound?.own || at === undefined || !pictures) return { num: 0, den: 1 };
  const { clip } = source.facts ?? {};
  if (clip?.variable && clip.runs && spec.clip.fields === 'keep')
    return { num: beginnings(clip.runs)[at]! * clip.base.num, den: clip.base.den };
  return { num: at * pictures.den, den: pictures.num };
}

/** The part of a plan's sound that goes with so many results, from its first on. The plan has a sound and a rate. */
export function soundPart(plan: Plan, frames: number): SoundPart {
  const start = beginning(plan);
  const rate = plan.rate!;
  // What is seen before the first picture is silent.
  const offset = plan.spec.sound.offset + titleCount(plan);
  return {
    from: { num: start.num * rate.num - offset * rate.den * start.den, den: start.den * rate.num },
    later: plan.spec.sound.later,
    length: { num: frames * rate.den, den: rate.num },
  };
}

/**
 * By how many places results come after the frames that they are made of; undefined where that is not one number for all, as where time is
 * changed or frames are left out. What is held where a frame is missing changes nothing.
 */
export function placesAfterFrames({ runs }: Pick<Plan, 'runs'>): number | undefined {
  let place = 0;
  let after: number | undefined;
  for (const { kind, from, fromStep, count, den, repeat, mix, stride, shot } of runs) {
    if (kind === 'missing') continue;
    if (kind === 'write') {
      if (den || repeat || mix || shot || stride !== undefined) return undefined;
      after ??= place - from;
      const isNext = from === place - after && (fromStep === 1 || count === 1);
      const isHeld = from < place - after && (fromStep === 0 || count === 1);
      if (!isNext && !isHeld) return undefined;
    }
    place += count;
  }
  return after;
}
