import { frameName } from '../numbering/pattern.ts';
import { fileOfFrame } from '../numbering/source.ts';
import type { Plan, PlanRun } from './plan.ts';

/** One line of a plan: which file becomes which, as paths below their roots. */
export interface PlanRow {
  kind: PlanRun['kind'];
  sourceFrame: number;
  frame: number;
  /** Undefined where the frame is missing, and where a slate stands for it. */
  from?: string;
  to: string;
}

/** The plan with its pictures as PNG stills, for looking at what goes into a video. */
export const asStills = (plan: Plan): Plan =>
  plan.into.file === undefined ? plan : { ...plan, into: { ...plan.into, file: undefined } };

/** How many lines a plan has: its results and what is missing. */
export const rowCount = (plan: Pick<Plan, 'runs'>): number => plan.runs.reduce((sum, run) => sum + run.count, 0);

function rowOf(plan: Plan, run: PlanRun, at: number): PlanRow {
  const sourceFrame = run.from + at * run.fromStep;
  const frame = run.to + at * run.toStep;
  const name = plan.into.file ?? frameName(plan.into.pattern, frame);
  return {
    kind: run.kind,
    sourceFrame,
    frame,
    from: run.kind === 'write' ? fileOfFrame(plan.source, sourceFrame) : undefined,
    to: plan.into.folder === '' ? name : `${plan.into.folder}/${name}`,
  };
}

/** The lines `start` to `end` (not included) of a plan, counted from 0, without working out the others. */
export function rowsOf(plan: Plan, start: number, end: number): PlanRow[] {
  const rows: PlanRow[] = [];
  let first = 0;
  for (const run of plan.runs) {
    for (let at = Math.max(0, start - first); at < run.count && first + at < end; at += 1)
      rows.push(rowOf(plan, run, at));
    first += run.count;
    if (first >= end) break;
  }
  return rows;
}

/** The results `start` to `end` (not included), counted from 0 over pictures that are made. */
export function resultsOf(plan: Plan, start: number, end: number): PlanRow[] {
  return rowsOf({ ...plan, runs: plan.runs.filter((run) => run.kind !== 'missing') }, start, end);
}
