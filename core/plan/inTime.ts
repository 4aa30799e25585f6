import { isVideoFormat } from '../formats/index.ts';
import type { FrameRange } from '../numbering/ranges.ts';
import { frameParts } from '../timing/curve.ts';
import { compareRates } from '../timing/rate.ts';
import { Axis } from './axis.ts';
import { frameOfRun, numbersMovedBy } from './places.ts';
import type { Plan } from './plan.ts';
import { placesAfterFrames } from './soundPart.ts';

/** The frame of a shot that is seen at a place; of two that are mixed, the one that has more of it. */
export interface SeenFrame {
  /** Which of the shots that follow one another; 0 is the source itself. */
  shot: number;
  frame: number;
  /** Whether another frame is mixed into it. */
  mixed: boolean;
}

/** The results of a plan one after another, as they are seen in their own time. Places count from 0. */
export interface InTime {
  /** Places: results and, where numbers of missing frames stay free, those. */
  count: number;
  /** Places at which a frame is seen; at the others a picture that Shale makes, or nothing. */
  coverage: FrameRange[];
  /** Where a shot begins, the first one's at 0; and which it is. */
  cuts: { place: number; shot: number }[];
  /** What is seen; undefined where it is no frame. */
  at: (place: number) => SeenFrame | undefined;
}

/**
 * What a plan's results show, by their places in time. In a video nothing lies between them; in numbered files what is missing has its place.
 * The pictures are the sources': what becomes of their pixels is not told.
 */
export function resultsInTime({ runs: all, spec }: Pick<Plan, 'runs' | 'spec'>): InTime {
  const closes = isVideoFormat(spec.write.format) || spec.names.closeUp;
  const runs = closes ? all.filter(({ kind }) => kind !== 'missing') : all;
  const axis = new Axis(runs);
  const coverage: FrameRange[] = [];
  const cuts: InTime['cuts'] = [];
  let place = 0;
  for (const { kind, count, shot = 0 } of runs) {
    if (kind === 'write') {
      const before = coverage[coverage.length - 1];
      if (before?.last === place - 1) before.last += count;
      else coverage.push({ first: place, last: place + count - 1, step: 1 });
    }
    if (kind !== 'title' && cuts[cuts.length - 1]?.shot !== shot) cuts.push({ place, shot });
    place += count;
  }
  return {
    ...{ count: axis.total, coverage, cuts },
    at: (wanted) => {
      if (wanted < 0 || wanted >= axis.total) return undefined;
      const { run, start } = axis.at(wanted);
      if (run.kind !== 'write') return undefined;
      const { frame, mixed } = frameOfRun(run, wanted - start);
      const nearer = mixed && mixed.weight * 2 > frameParts ? mixed.frame : frame;
      return { shot: run.shot ?? 0, frame: nearer, mixed: mixed !== undefined };
    },
  };
}

/** Whether results are seen in another time than the frames of their source: moved, held, left out, of several shots, at another rate. */
export function changesTime(plan: Plan): boolean {
  const rate = plan.declaration.rate.value;
  // In numbered files what is missing keeps its place.
  const keepsPlaces =
    !isVideoFormat(plan.spec.write.format) &&
    numbersMovedBy(plan.runs) !== undefined &&
    plan.runs.every(({ fromStep, count }) => fromStep === 1 || count === 1);
  const isPlain = keepsPlaces || placesAfterFrames(plan) !== undefined;
  const sameRate = rate === null || plan.rate === null || compareRates(rate, plan.rate) === 0;
  return plan.shots.length > 0 || !isPlain || !sameRate;
}
