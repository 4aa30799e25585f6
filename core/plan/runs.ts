import { picturesAfter, rateAfter, type Fields } from '../numbering/clipFacts.ts';
import { damageCodes } from '../numbering/findings/codes.ts';
import { gapsIn } from '../numbering/gaps.ts';
import {
  coverageCount,
  coverageOf,
  covers,
  framesOf,
  intersect,
  missingFrom,
  rangeCount,
  type FrameRange,
} from '../numbering/ranges.ts';
import { frameSpan, isVideo, type Source } from '../numbering/source.ts';
import type { Declaration } from '../spec/declaration.ts';
import type { Spec } from '../spec/schema.ts';
import { isVideoFormat } from '../formats/index.ts';
import { atConstantRate } from '../timing/clipTimes.ts';
import { makeRate, type Rate } from '../timing/rate.ts';
import type { PlanRun } from './plan.ts';
import { ratesInTime, type GivenHolds, type RatesInTime } from './timed.ts';

/** What of a source a plan takes. */
export interface ChosenFrames {
  /** The first frame of the source, be it whole or damaged. */
  begins: number | undefined;
  /** Frames that there are. */
  present: readonly FrameRange[];
  /** Frames that are converted. */
  chosen: FrameRange[];
  /** Frames that were asked for, or lie between, and are not there. */
  missing: FrameRange[];
  /** Chosen frames whose picture is not like most of the source's. */
  differing: FrameRange[];
  /** Frames that were asked for and are known to be empty or damaged, whatever the spec says of them. */
  damaged: FrameRange[];
}

/** Which pictures a source has once its fields are worked as a spec says. */
function presentOf(source: Source, { fields }: { fields: Fields }): readonly FrameRange[] {
  if (source.kind === 'still') return [{ first: 0, last: 0, step: 1 }];
  if (!isVideo(source) || fields === 'keep') return source.coverage;
  const count = picturesAfter(coverageCount(source.coverage), fields);
  return count > 0 ? [{ first: 0, last: count - 1, step: 1 }] : [];
}

/** @param wanted frames that the spec names; absent where it takes all */
export function chooseFrames(source: Source, spec: Spec, wanted?: readonly FrameRange[]): ChosenFrames {
  const all = presentOf(source, spec.clip);
  const hurt = intersect(all, damagedFrames(source, all));
  const damaged = wanted ? intersect(hurt, wanted) : hurt;
  const isMissing = spec.damaged === 'as-missing' && hurt.length > 0;
  const present = isMissing ? without(all, hurt) : all;
  const asked = wanted ? intersect(present, wanted) : [...present];
  const differing = intersect(asked, mixedFrames(source));
  const chosen = spec.mixed === 'leave-out' ? without(asked, differing) : asked;
  const gaps = wanted ? missingFromWanted(present, wanted) : gapsIn(all);
  const missing = isMissing && !wanted ? together(gaps, damaged) : gaps;
  return { begins: all[0]?.first, present, chosen, missing, differing, damaged };
}

/** Frames of a source that are known to be empty or damaged; none of a clip whose pictures are numbered anew. */
function damagedFrames({ findings, coverage, kind }: Source, present: readonly FrameRange[]): FrameRange[] {
  if (kind === 'still' || coverageCount(present) !== coverageCount(coverage)) return [];
  return together(...findings.filter(({ code }) => damageCodes.has(code)).map(({ frames }) => frames ?? []));
}

/** All frames of some coverages, which may overlap. */
const together = (...all: (readonly FrameRange[])[]): FrameRange[] =>
  coverageOf([...new Set(all.flatMap((one) => [...framesOf(one)]))].sort((a, b) => a - b));

export const isMixed = (code: string): boolean => code === 'mixed-size' || code === 'mixed-channels';

/** Frames whose picture is not like most of the source's. */
const mixedFrames = ({ findings }: Source): FrameRange[] =>
  together(...findings.filter(({ code }) => isMixed(code)).map(({ frames }) => frames ?? []));

/** A coverage less some frames of it. */
function without(all: readonly FrameRange[], some: readonly FrameRange[]): FrameRange[] {
  return some.length === 0 ? [...all] : coverageOf([...framesOf(all)].filter((frame) => !covers(some, frame)));
}

/** What was asked for and is not there; asking beyond the ends counts. */
function missingFromWanted(present: readonly FrameRange[], wanted: readonly FrameRange[]): FrameRange[] {
  const span = frameSpan(wanted)!;
  const outside = missingFrom([
    { first: span.first - 1, last: span.first - 1, step: 1 },
    ...intersect(present, [{ ...span, step: 1 }]),
    { first: span.last + 1, last: span.last + 1, step: 1 },
  ]);
  return intersect(outside, wanted);
}

const times = (rate: Rate, by: Rate): Rate => makeRate(rate.num * by.num, rate.den * by.den);

/**
 * The rate of a source's pictures once its fields are worked, and that of the results; null where nothing says one. `inTime` are those
 * on the way from the one to the other.
 */
export function ratesOf(
  source: Pick<Source, 'kind' | 'facts'>,
  declaration: Declaration,
  { clip, time }: Pick<Spec, 'clip' | 'time'>,
  holds?: GivenHolds,
): { pictures: Rate | null; results: Rate | null; inTime: RatesInTime | null } {
  const declared = declaration.rate.value;
  if (!declared) return { pictures: null, results: time.rate, inTime: null };
  const pictures = isVideo(source) ? times(declared, rateAfter(clip.fields)) : declared;
  const taken = isVideo(source) && clip.timing === 'constant-rate' ? (clip.rate ?? pictures) : pictures;
  const inTime = ratesInTime(taken, time, holds);
  return { pictures, results: inTime.results, inTime };
}

/**
 * Which picture stands at each frame of the result, where a clip is brought to a constant rate by its times; undefined where every
 * picture is taken once.
 */
function placesInTime(source: Source, declaration: Declaration, spec: Spec): number[] | undefined {
  const { clip } = source.facts ?? {};
  const { pictures } = ratesOf(source, declaration, spec);
  if (!clip || spec.clip.timing !== 'constant-rate' || !pictures) return undefined;
  const results = spec.clip.rate ?? pictures;
  if (clip.variable && clip.runs && spec.clip.fields === 'keep') return atConstantRate(clip.runs, clip.base, results);
  const count = picturesAfter(coverageCount(source.coverage), spec.clip.fields);
  return atConstantRate([[count, 1]], { num: pictures.den, den: pictures.num }, results);
}

/** Runs of a list of results, each from a source frame. */
export function runsOfList(results: readonly { from: number; to: number }[]): PlanRun[] {
  const runs: PlanRun[] = [];
  for (const { from, to } of results) {
    const run = runs[runs.length - 1];
    if (run?.count === 1) {
      // A second result sets the steps; a number that is not above the first opens a run of its own.
      Object.assign(run, { fromStep: from - run.from, toStep: to - run.to, count: 2 });
      continue;
    }
    if (run && from === run.from + run.count * run.fromStep && to === run.to + run.count * run.toStep) run.count += 1;
    else runs.push({ kind: 'write', from, fromStep: 1, to, toStep: 1, count: 1 });
  }
  return runs;
}

/**
 * What is taken of a source, in order, every frame once, the missing ones between the written ones.
 * @param shift is added to a source frame's number for that of its result
 */
export function takenRuns(
  source: Source,
  declaration: Declaration,
  spec: Spec,
  { chosen, missing, present }: ChosenFrames,
  shift: number,
): PlanRun[] {
  const places = placesInTime(source, declaration, spec);
  if (places) {
    const kept = places.flatMap((from, at) => (covers(chosen, from) ? [{ from, to: at }] : []));
    const first = kept[0]?.to ?? 0;
    return runsOfList(kept.map(({ from, to }) => ({ from, to: to - first + (chosen[0]?.first ?? 0) + shift })));
  }
  const run =
    (kind: PlanRun['kind']) =>
    (range: FrameRange): PlanRun => ({
      kind,
      from: range.first,
      fromStep: range.step,
      to: range.first + shift,
      toStep: range.step,
      count: rangeCount(range),
    });
  const filled = missing.flatMap((range) => {
    if (spec.missing === 'slate') return [run('slate')(range)];
    if (spec.missing !== 'hold') return [run('missing')(range)];
    const held = before(present, range.first) ?? present[0]?.first;
    return held === undefined ? [run('missing')(range)] : [{ ...run('write')(range), from: held, fromStep: 0 }];
  });
  return [...chosen.map(run('write')), ...filled].sort((a, b) => a.to - b.to);
}

/** The last frame before another. */
function before(coverage: readonly FrameRange[], frame: number): number | undefined {
  let last: number | undefined;
  for (const range of coverage) {
    if (range.first >= frame) break;
    last = Math.min(range.last, range.first + Math.floor((frame - 1 - range.first) / range.step) * range.step);
  }
  return last;
}

/** Numbers one after another where the spec closes up, and for a video, whose frames are counted from 0. */
export function numbered(runs: PlanRun[], { write, names }: Spec): PlanRun[] {
  const writesVideo = isVideoFormat(write.format);
  if (!writesVideo && !names.closeUp) return runs;
  let to = writesVideo ? 0 : (names.first ?? runs.find(({ kind }) => kind !== 'missing')?.to ?? 0);
  return runs.map((run) => {
    const next = { ...run, to, toStep: 1 };
    if (run.kind !== 'missing') to += run.count;
    return next;
  });
}

/** How many results some runs make. */
export const resultCount = (runs: readonly PlanRun[]): number =>
  runs.reduce((sum, { kind, count }) => (kind === 'missing' ? sum : sum + count), 0);
