import type { Problem } from '../errors.ts';
import type { FrameRange } from '../numbering/ranges.ts';
import type { Source } from '../numbering/source.ts';
import { isFloat, sampleWords } from '../pixels/image.ts';
import type { TimeSpec } from '../spec/time.ts';
import { curveProblems, curveStretches, frameParts } from '../timing/curve.ts';
import { mulDivNear } from '../timing/exact.ts';
import { cutStretches, onLine, standing, stretchCount, thereAndBack, type Stretch } from '../timing/line.ts';
import { unweave, unwovenCount, weave, wovenCount } from '../timing/pulldown.ts';
import { makeRate, type Rate } from '../timing/rate.ts';
import { Axis, renumbered, runsOnAxis, wovenRuns } from './axis.ts';
import { frameOfRun, placeOfFrame } from './places.ts';
import type { PlanRun } from './plan.ts';

/** What was found of the frames of a source that repeat the one before. */
export interface GivenHolds {
  /** Frames that show what the one before shows. */
  repeats: readonly FrameRange[];
  /** How many of how many frames are new, where that keeps on: 1 of 2 on twos. */
  pattern: { fresh: number; of: number } | null;
}

const times = (rate: Rate, num: number, den: number): Rate => makeRate(rate.num * num, rate.den * den);

export interface RatesInTime {
  taken: Rate;
  worked: Rate;
  results: Rate;
}

/** The rate that frames have once what is to be taken back is, that of the results before pulldown, and that of the results. */
export function ratesInTime(pictures: Rate, { undo, rate, pulldown }: TimeSpec, holds?: GivenHolds): RatesInTime {
  const pattern = undo === 'holds' ? holds?.pattern : undefined;
  const taken =
    undo === 'pulldown' ? times(pictures, 4, 5) : pattern ? times(pictures, pattern.fresh, pattern.of) : pictures;
  const worked = rate ?? taken;
  return { taken, worked, results: pulldown ? times(worked, 5, 4) : worked };
}

/** The place of a source frame among the results of runs; undefined where it is none of them. */
function placeOf(runs: readonly PlanRun[], frame: number): number | undefined {
  let before = 0;
  for (const run of runs) {
    const at = placeOfFrame(run, frame);
    if (at !== undefined) return before + at;
    before += run.count;
  }
  return undefined;
}

/** What the work on time is told of the frames. */
export interface InTime {
  /** Whether several shots follow one another: keys of a curve count from 0 then. */
  joined: boolean;
  /** By shot. */
  holds: readonly (GivenHolds | undefined)[];
}

/** What forbids the work on time. @param base what is taken, one after another @param joined whether several shots follow one another */
export function timeProblems(
  time: TimeSpec,
  base: readonly PlanRun[],
  { joined, holds, pictures }: InTime & { pictures: Rate | null },
): Problem[] {
  const problems: Problem[] = [];
  const add = (code: string, fact: string, wayOut: string, subject: string) =>
    problems.push({ code, fact, wayOut, subject });
  if (time.how === 'curve') {
    const taken = takenInTime(base, time, holds);
    const total = taken.reduce((sum, { count }) => sum + count, 0);
    const first = taken[0];
    const last = taken[taken.length - 1];
    const span = joined
      ? { first: 0, last: total - 1 }
      : first && last && { first: first.from, last: frameOfRun(last, last.count - 1).frame };
    problems.push(...curveProblems(time.curve, span || undefined));
    if (!joined && problems.length === 0)
      for (const { from } of time.curve.keys)
        if (placeOf(taken, from) === undefined) {
          add('key-outside', `Frame ${from} is not among the chosen frames.`, 'Choose one of them.', 'time.curve');
          break;
        }
  }
  if (time.how === 'rate' && time.rate && !pictures)
    add(
      'rate-not-declared',
      'The rate cannot be changed while it is unknown.',
      'Declare their rate: press it in the sentence, use Inspect, or give --rate.',
      'declaration.rate',
    );
  if (time.undo === 'holds' && !holds[0])
    add(
      'holds-not-found',
      'Repeated frames have not been looked for yet.',
      'Find the cadence on Inspect; Shale also finds it when it plans.',
      'time.undo',
    );
  const weaves = time.undo === 'pulldown' || time.pulldown;
  if (
    weaves &&
    (time.how !== 'every-frame' || time.stand > 1 || time.back || (time.undo === 'pulldown' && time.pulldown))
  )
    add(
      'time-combination',
      'Pulldown cannot be combined with other changes of time.',
      'Use two conversions: one for the pulldown, the other for the rest.',
      'time.pulldown',
    );
  if (time.keep && time.keep.last < time.keep.first)
    add(
      'range-reversed',
      `Results ${time.keep.first} to ${time.keep.last} are a range in reverse order.`,
      'Write the smaller number first.',
      'time.keep',
    );
  return problems;
}

/** The sides of pictures that motion can be looked for in: it is in blocks, of which there are several. */
export const leastForMotion = 32;

/** What forbids frames of a source to be made up by motion. */
export function motionProblems({ name, facts }: Pick<Source, 'name' | 'facts'>, time: TimeSpec): Problem[] {
  if (mixOf(time) !== 'motion' || !facts) return [];
  const small = facts.width < leastForMotion || facts.height < leastForMotion;
  if (!isFloat(facts.sample) && !small) return [];
  return [
    {
      code: 'motion-refused',
      fact: small
        ? `${name} is ${facts.width} x ${facts.height}: too small to find motion in.`
        : `${name} has ${sampleWords(facts.sample)} samples, but frames by motion are made in 8 bits.`,
      wayOut: 'Blend frames, or use the nearest.',
      subject: 'time.between',
    },
  ];
}

/** How frames are mixed where results lie between them. */
const mixOf = ({ how, between }: TimeSpec): 'blend' | 'motion' | undefined =>
  (how === 'rate' || how === 'curve') && (between === 'blend' || between === 'motion') ? between : undefined;

/** The place on the axis of each result, in `parts` of a frame; of woven ones only how many there are. */
function inTime(
  taken: readonly PlanRun[],
  total: number,
  time: TimeSpec,
  rates: RatesInTime | null,
  joined: boolean,
): { stretches: Stretch[]; parts: number } {
  const parts = mixOf(time) ? frameParts : 1;
  const round = time.between === 'before' ? 'down' : 'near';
  const every = (count: number, repeat?: number): Stretch[] =>
    count > 0 ? [{ line: { from: 0, step: 1, ...(repeat ? { repeat } : {}) }, count }] : [];
  if (time.undo === 'pulldown') return { stretches: every(unwovenCount(total, time.phase)), parts };
  if (time.pulldown) return { stretches: every(wovenCount(total, time.phase)), parts };
  switch (time.how) {
    case 'every-frame':
      return { stretches: every(total), parts };
    case 'hold':
      return { stretches: every(total * time.hold, time.hold), parts };
    case 'curve': {
      const keys = time.curve.keys.map(({ from, to }) => ({ from: joined ? from : placeOf(taken, from)!, to }));
      return { stretches: curveStretches({ ...time.curve, keys }, parts, round), parts };
    }
    case 'rate':
      return { stretches: rates ? resampled(total, rates.taken, rates.worked, parts, round) : every(total), parts };
  }
}

/** Frames at the same speed at another rate: result k stands for the moment k / rate, so it is at k * taken / worked. */
function resampled(total: number, taken: Rate, worked: Rate, parts: number, round: 'near' | 'down'): Stretch[] {
  const step = makeRate(taken.num * worked.den, taken.den * worked.num);
  const count = Math.max(1, mulDivNear(total, step.den, step.num));
  const line =
    round === 'near'
      ? { from: 0, step: 2 * step.num * parts, phase: step.den, den: 2 * step.den }
      : { from: 0, step: step.num * parts, phase: 0, den: step.den };
  // What would lie behind the last frame is the last frame.
  const last = (total - 1) * parts;
  let inside = count;
  while (inside > 0 && onLine(line, inside - 1) > last) inside -= 1;
  return [
    ...(inside > 0 ? [{ line, count: inside }] : []),
    ...(inside < count ? [{ line: { from: last, step: 0 }, count: count - inside }] : []),
  ];
}

/** Runs less the frames that repeat the one before. */
function takenInTime(base: readonly PlanRun[], { undo }: TimeSpec, holds: InTime['holds']): readonly PlanRun[] {
  if (undo !== 'holds') return base;
  const kept: PlanRun[] = [];
  let range = 0;
  let repeats: readonly FrameRange[] = [];
  const isRepeat = (frame: number): boolean => {
    while (range < repeats.length && repeats[range]!.last < frame) range += 1;
    const at = repeats[range];
    return at !== undefined && frame >= at.first && (frame - at.first) % at.step === 0;
  };
  for (const run of base) {
    if (run.kind !== 'write') {
      kept.push(run);
      continue;
    }
    range = 0;
    repeats = holds[run.shot ?? 0]?.repeats ?? [];
    let before: number | undefined;
    for (let at = 0; at < run.count; at += 1) {
      const { frame } = frameOfRun(run, at);
      // What it repeats has to be taken too.
      const repeatsTaken = before === frame - 1 && isRepeat(frame);
      before = frame;
      if (repeatsTaken) continue;
      const last = kept[kept.length - 1];
      if (
        last?.kind === 'write' &&
        last.shot === run.shot &&
        (last.count === 1 ? frame > last.from : frame === last.from + last.count * last.fromStep)
      ) {
        if (last.count === 1) last.fromStep = frame - last.from;
        last.count += 1;
      } else kept.push({ ...run, from: frame, fromStep: 1, count: 1 });
    }
  }
  return kept;
}

/**
 * What becomes of frames in time: runs of the results, numbered from 0.
 * @param base what is taken, one after another: every frame once, and what is missing in its place
 * @param rates absent where nothing says the frames' rate
 */
export function runsInTime(
  base: readonly PlanRun[],
  time: TimeSpec,
  rates: RatesInTime | null,
  { joined, holds }: InTime,
): PlanRun[] {
  const taken = takenInTime(base, time, holds);
  const axis = new Axis(taken);
  if (axis.total === 0) return [];
  const { stretches, parts } = inTime(taken, axis.total, time, rates, joined);
  const keep = (all: readonly Stretch[]): Stretch[] => {
    const kept = time.keep ? cutStretches(all, time.keep.first, time.keep.last + 1) : [...all];
    return time.back ? thereAndBack(kept) : kept;
  };
  const count = stretchCount(stretches);
  const woven =
    time.undo === 'pulldown' ? unweave(time.phase, time.lines) : time.pulldown ? weave(time.phase, time.lines) : null;
  if (!woven) return renumbered(runsOnAxis(axis, keep(standing(stretches, time.stand)), parts, mixOf(time)));
  const [top, bottom] = [woven.top, woven.bottom].map((line) => keep([{ line, count }])[0]);
  return top && bottom ? renumbered(wovenRuns(axis, top.line, bottom.line, top.count)) : [];
}
