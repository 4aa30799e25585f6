import { onLine, stretchFrom, type Line, type Stretch } from '../timing/line.ts';
import type { PlanRun } from './plan.ts';

/** Runs by their places in a row, for finding the one that a place is in. */
export class Axis {
  private readonly starts: number[] = [];
  readonly total: number;
  private last = 0;

  constructor(private readonly runs: readonly PlanRun[]) {
    let at = 0;
    for (const { count } of runs) {
      this.starts.push(at);
      at += count;
    }
    this.total = at;
  }

  /** The run that a place is in, and the places of it; near the one that was asked for last, as a rule. */
  at(place: number): { run: PlanRun; start: number; end: number } {
    let at = this.last;
    while (at + 1 < this.starts.length && place >= this.starts[at + 1]!) at += 1;
    while (at > 0 && place < this.starts[at]!) at -= 1;
    this.last = at;
    const run = this.runs[at]!;
    return { run, start: this.starts[at]!, end: this.starts[at]! + run.count };
  }
}

/** A line over places, told in so many parts each, brought to the frames of the one run that it lies in. */
function onRun(
  { run: base, start }: ReturnType<Axis['at']>,
  line: Line,
  count: number,
  parts = 1,
  mix?: 'blend' | 'motion',
): PlanRun {
  const stride = base.fromStep;
  // The line's whole steps go into the first frame, so that what is left begins within it.
  const first = Math.floor((line.from - start * parts) / parts);
  const rest = line.from - (start + first) * parts;
  const phase = (line.phase ?? 0) + rest * (line.den ?? 1);
  // Whole places where nothing is mixed.
  const den = (line.den ?? 1) * (mix ? 1 : parts);
  const repeat = line.repeat ?? 1;
  const plain = den === 1 && repeat === 1 && !mix;
  return {
    kind: base.kind,
    from: base.from + stride * first,
    fromStep: plain ? line.step * stride : line.step,
    to: 0,
    toStep: 1,
    count,
    ...(den !== 1 ? { phase, den } : {}),
    ...(repeat !== 1 ? { repeat } : {}),
    ...(stride !== 1 && !plain ? { stride } : {}),
    ...(base.shot ? { shot: base.shot } : {}),
    ...(mix ? { mix } : {}),
  };
}

/**
 * Places in parts of a frame brought to frames. A row is cut where the axis is: over a cut, or beside a frame that is missing, nothing is
 * mixed, and between the two stands the nearer.
 */
export function runsOnAxis(
  axis: Axis,
  stretches: readonly Stretch[],
  parts: number,
  mix: 'blend' | 'motion' | undefined,
): PlanRun[] {
  const runs: PlanRun[] = [];
  for (const { line, count } of stretches) {
    for (let at = 0; at < count;) {
      const value = onLine(line, at);
      const here = axis.at(Math.floor(value / parts));
      const [least, most] = [here.start * parts, (here.end - 1) * parts];
      let next = at;
      for (; next < count; next += 1) {
        const place = onLine(line, next);
        if (place < least || place > most) break;
      }
      if (next === at) {
        const nearer = value - most >= parts / 2 && here.end < axis.total ? here.end : here.end - 1;
        runs.push(onRun(axis.at(nearer), { from: nearer, step: 0 }, 1));
        next = at + 1;
      } else
        for (const part of stretchFrom({ line, count: next }, at))
          runs.push(onRun(here, part.line, part.count, parts, here.run.kind === 'write' ? mix : undefined));
      at = next;
    }
  }
  return runs;
}

/** Results that have their even rows of one place and the odd ones of another. */
export function wovenRuns(axis: Axis, top: Line, bottom: Line, count: number): PlanRun[] {
  const runs: PlanRun[] = [];
  for (let at = 0; at < count;) {
    const here = axis.at(Math.min(onLine(top, at), onLine(bottom, at)));
    let next = at;
    while (next < count && Math.max(onLine(top, next), onLine(bottom, next)) < here.end) next += 1;
    if (next === at || here.run.kind !== 'write') {
      // Lines of two runs are not woven: the earlier frame stands.
      runs.push(onRun(here, { from: Math.min(onLine(top, at), onLine(bottom, at)), step: 0 }, 1));
      at += 1;
      continue;
    }
    const [first, second] = [top, bottom].map((line) => {
      const [part] = stretchFrom({ line, count: next }, at);
      return onRun(here, part!.line, part!.count);
    }) as [PlanRun, PlanRun];
    runs.push({ ...first, mix: 'lines', other: second.from, otherPhase: second.phase ?? 0 });
    at = next;
  }
  return runs;
}

/** Runs numbered one after another from 0. */
export function renumbered(runs: readonly PlanRun[]): PlanRun[] {
  let to = 0;
  return runs.map((run) => {
    const next = { ...run, to, toStep: 1 };
    to += run.count;
    return next;
  });
}
