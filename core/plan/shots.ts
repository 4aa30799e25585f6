import type { Problem } from '../errors.ts';
import { parseCoverage, printCoverage } from '../numbering/ranges.ts';
import type { Source } from '../numbering/source.ts';
import type { Declaration } from '../spec/declaration.ts';
import type { Spec } from '../spec/schema.ts';
import { printRate } from '../timing/rate.ts';
import { refusing, type Staged } from './attempt.ts';
import type { GivenShot } from './given.ts';
import type { Other } from './others.ts';
import { chooseFrames, type ChosenFrames } from './runs.ts';

/** A source, what it is taken to be, and what of it is taken. */
export interface TakenShot extends Other {
  frames: ChosenFrames;
}

/** The sources that follow the first, in order, and what forbids their use. */
export function takeShots(
  first: Source,
  declaration: Declaration,
  spec: Spec,
  given: readonly (GivenShot | undefined)[],
): Staged<TakenShot[]> {
  const problems: Problem[] = [];
  const shots: TakenShot[] = [];
  spec.then.forEach((shot, at) => {
    const found = given[at];
    const subject = `then.${at}`;
    const add = (code: string, fact: string, wayOut: string) => problems.push({ code, fact, wayOut, subject });
    if (!found) {
      add(
        'shot-not-found',
        `${shot.source.name} in ${shot.source.folder || 'the root itself'}, shot ${at + 2}, is not there.`,
        'Scan again, choose another source, or take the shot out.',
      );
      return;
    }
    const wanted = refusing(
      problems,
      () => (shot.frames === 'all' ? undefined : parseCoverage(shot.frames)),
      undefined,
    );
    const frames = chooseFrames(found.source, spec, wanted);
    shots.push({ root: found.root, source: found.source, declaration: found.declaration, frames });
    if (frames.chosen.length === 0)
      add(
        'no-frames',
        `No frame of ${found.source.name}, shot ${at + 2}, is in ${shot.frames}.`,
        `Choose frames within ${printCoverage(frames.present) || 'another source'}, or take the shot out.`,
      );
    problems.push(...shapeProblems(first, found.source, spec, at, subject));
    if (spec.missing === 'stop' && frames.missing.length > 0)
      add(
        'missing-frames',
        `Frames ${printCoverage(frames.missing)} of ${found.source.name}, shot ${at + 2}, are missing.`,
        'Ask for them again, choose other frames, or leave them out.',
      );
    if (spec.mixed === 'stop' && frames.differing.length > 0)
      add(
        'mixed-pictures',
        `Frames ${printCoverage(frames.differing)} of ${found.source.name}, shot ${at + 2}, are not like the others.`,
        'Fit pictures that differ, or leave them out.',
      );
    const [ours, theirs] = [declaration.rate.value, found.declaration.rate.value];
    if (ours && theirs && (ours.num !== theirs.num || ours.den !== theirs.den) && spec.time.rate === null)
      add(
        'shots-differ',
        `${found.source.name}, shot ${at + 2}, has ${printRate(theirs)}, and the first shot ${printRate(ours)}.`,
        'Set one rate for all: "played at" under time in the sentence.',
      );
  });
  return { value: shots, problems };
}

/** Pictures of one size and the same channels, or fitted to those of the first. */
function shapeProblems(first: Source, source: Source, { mixed }: Spec, at: number, subject: string): Problem[] {
  const [ours, theirs] = [first.facts, source.facts];
  if (!ours || !theirs || mixed === 'fit') return [];
  const isAlike =
    ours.width === theirs.width && ours.height === theirs.height && ours.channels.length === theirs.channels.length;
  if (isAlike) return [];
  const words = ({ width, height, channels }: typeof ours) => `${width} x ${height} with ${channels.join(' ')}`;
  return [
    {
      code: 'shots-differ',
      fact: `${source.name}, shot ${at + 2}, is ${words(theirs)}, and the first shot ${words(ours)}.`,
      wayOut: 'Fit pictures that differ, or convert it separately.',
      subject,
    },
  ];
}
