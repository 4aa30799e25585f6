import { fileOfFrame, type Source } from '../numbering/source.ts';
import type { Declaration } from '../spec/declaration.ts';
import { frameOfRun, numberOfRun, type Mixed } from './places.ts';
import type { Plan, PlanRun } from './plan.ts';
import { plainPattern, resultName } from './into.ts';

/** One line of a plan: which file becomes which, as paths below their roots. */
export interface PlanRow {
  kind: PlanRun['kind'];
  sourceFrame: number;
  frame: number;
  /** Undefined where the frame is missing, and where a slate stands for it. */
  from?: string;
  /** Which of the shots that follow one another it is of; 0 is the source itself. */
  shot: number;
  /** A second frame of the same shot that goes into it, and its file. */
  mixed?: Mixed & { from: string };
  to: string;
}

/** The source of a shot as a plan keeps it. */
export const shotSource = (
  { source, shots }: Pick<Plan, 'source' | 'shots'>,
  shot: number,
): Pick<Source, 'kind' | 'folder' | 'name' | 'pattern' | 'coverage' | 'facts' | 'irregular'> =>
  shot === 0 ? source : shots[shot - 1]!.source;

/** The plan with its pictures as PNG stills, for looking at what goes into a video. */
export function asStills(plan: Plan): Plan {
  if (plan.into.kind !== 'video') return plan;
  const { root, folder, stem } = plan.into;
  return { ...plan, into: { kind: 'sequence', root, folder, stem, pattern: plainPattern(stem) } };
}

/** What a shot is taken to be. */
export const shotDeclaration = (
  { declaration, shots }: Pick<Plan, 'declaration' | 'shots'>,
  shot: number,
): Declaration => (shot === 0 ? declaration : shots[shot - 1]!.declaration);

/** How many lines a plan has: its results and what is missing. */
export const rowCount = (plan: Pick<Plan, 'runs'>): number => plan.runs.reduce((sum, run) => sum + run.count, 0);

function rowOf(plan: Plan, run: PlanRun, at: number): PlanRow {
  const { frame: sourceFrame, mixed } = frameOfRun(run, at);
  const frame = numberOfRun(run, at);
  const name = resultName(plan.into, frame);
  const shot = run.shot ?? 0;
  const fileOf = (number: number) => fileOfFrame(shotSource(plan, shot), number);
  return {
    kind: run.kind,
    sourceFrame,
    frame,
    from: run.kind === 'write' ? fileOf(sourceFrame) : undefined,
    shot,
    ...(mixed && run.kind === 'write' ? { mixed: { ...mixed, from: fileOf(mixed.frame)! } } : {}),
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
