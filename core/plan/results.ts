import type { Problem } from '../errors.ts';
import { frameSpan, type Source } from '../numbering/source.ts';
import type { Declaration } from '../spec/declaration.ts';
import type { Numbered } from '../spec/marker.ts';
import type { Spec } from '../spec/schema.ts';
import { isPlainTime } from '../spec/time.ts';
import { isVideoFormat } from '../formats/index.ts';
import type { Staged } from './attempt.ts';
import { renumbered } from './axis.ts';
import type { Given } from './given.ts';
import type { PlanRun } from './plan.ts';
import { numbered, runsOfList, takenRuns, type ChosenFrames } from './runs.ts';
import type { TakenShot } from './shots.ts';
import { motionProblems, runsInTime, timeProblems, type RatesInTime } from './timed.ts';

/** The results of a source and those that follow it: what is taken, what becomes of it in time, and their numbers. */
export function runsOf(
  first: { source: Source; declaration: Declaration; frames: ChosenFrames },
  shots: readonly TakenShot[],
  spec: Spec,
  shift: number,
  rates: RatesInTime | null,
  { holds, shots: given = [] }: Given,
): Staged<PlanRun[]> {
  const { time } = spec;
  const taken = takenRuns(first.source, first.declaration, spec, first.frames, shift);
  const others = shots.flatMap(({ source, declaration, frames }, at) =>
    takenRuns(source, declaration, spec, frames, 0).map((run) => ({ ...run, shot: at + 1 })),
  );
  const isPlain = isPlainTime(time);
  if (isPlain && shots.length === 0) return { value: withSlate(numbered(taken, spec), spec), problems: [] };
  const joined = [...taken, ...others];
  const found = [holds, ...given.map((shot) => shot?.holds)];
  const inTime = { joined: shots.length > 0, holds: found };
  const problems = isPlain ? [] : timeProblems(time, joined, { ...inTime, pictures: rates?.taken ?? null });
  const worked = isPlain || problems.length > 0 ? renumbered(joined) : runsInTime(joined, time, rates, inTime);
  for (const { source } of [first, ...shots]) problems.push(...motionProblems(source, time));
  const { chosen, missing } = first.frames;
  const start =
    spec.names.first ?? (frameSpan([...chosen, ...missing].sort((a, b) => a.first - b.first))?.first ?? 0) + shift;
  const runs = numbered(
    worked.map((run) => ({ ...run, to: run.to + start })),
    spec,
  );
  return { value: withSlate(runs, spec), problems };
}

/** Before a video, pictures that say what follows. */
function withSlate(runs: PlanRun[], { burn, write }: Spec): PlanRun[] {
  const first = runs.find(({ kind }) => kind !== 'missing');
  if (burn.slate === 0 || !isVideoFormat(write.format) || !first) return runs;
  const title: PlanRun = { kind: 'title', from: first.from, fromStep: 0, to: 0, toStep: 1, count: burn.slate };
  return [title, ...runs.map((run) => ({ ...run, to: run.to + burn.slate }))];
}

/** A still at each marker, one after another. */
export const markedRuns = (chosen: readonly Numbered[], spec: Spec): PlanRun[] =>
  withSlate(
    numbered(
      runsOfList(chosen.map(({ marker }, at) => ({ from: marker.frame, to: at + (spec.names.first ?? 1) }))),
      spec,
    ),
    spec,
  );

/** Work that stills at markers do not go with. */
export const markedProblems = ({ time, then }: Spec): Problem[] =>
  isPlainTime(time) && then.length === 0
    ? []
    : [
        {
          code: 'time-combination',
          fact: 'Stills at markers cannot be combined with changes of time or further shots.',
          wayOut: 'Choose frames instead of markers, or remove the changes of time and the shots.',
          subject: 'frames',
        },
      ];
