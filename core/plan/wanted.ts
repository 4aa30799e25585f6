import type { Problem } from '../errors.ts';
import { coverageCount, coverageOf, parseCoverage, printCoverage } from '../numbering/ranges.ts';
import { isVideoFormat } from '../formats/index.ts';
import { hasFrames, isConvertible, type Source } from '../numbering/source.ts';
import type { Numbered } from '../spec/marker.ts';
import type { Spec } from '../spec/schema.ts';
import { refusing, type Staged } from './attempt.ts';
import type { Given } from './given.ts';
import { markedFrames } from './marked.ts';
import { chooseFrames, isMixed, type ChosenFrames } from './runs.ts';

/** What of a source is converted. */
export interface Wanted {
  frames: ChosenFrames;
  /** The markers whose stills are wanted; absent where frames are. */
  marked?: Numbered[];
}

/** Which frames a spec asks for, and what of them forbids the run. */
export function wantedFrames(source: Source, spec: Spec, { markers = [] }: Given): Staged<Wanted> {
  const problems: Problem[] = [];
  if (!isConvertible(source))
    problems.push({
      code: 'not-frames',
      fact: `${source.name} is a ${source.kind}, not a sequence of frames.`,
      wayOut: 'Choose a sequence, a clip or a still; a sound can be added to a video.',
      subject: source.name,
    });
  const named = spec.frames !== 'all' && spec.frames !== 'markers';
  const wanted = named ? refusing(problems, () => parseCoverage(spec.frames), undefined) : undefined;
  const frames = chooseFrames(source, spec, wanted);
  if (spec.frames !== 'markers') {
    problems.push(...emptyProblems(source, spec, frames), ...gapProblems(source, spec, frames));
    return { value: { frames }, problems };
  }
  const marked = markedFrames(markers, spec.marked, frames.present, source.name);
  const chosen = coverageOf([...new Set(marked.value.map(({ marker }) => marker.frame))]);
  problems.push(...marked.problems, ...gapProblems(source, spec, { ...frames, missing: [] }));
  return { value: { frames: { ...frames, chosen, missing: [] }, marked: marked.value }, problems };
}

function emptyProblems({ name, facts }: Source, { frames }: Spec, { chosen, present }: ChosenFrames): Problem[] {
  // Of a source that cannot be read at all it is said why, not that it lacks frames.
  if (coverageCount(chosen) > 0 || (!facts && coverageCount(present) === 0)) return [];
  return [
    {
      code: 'no-frames',
      fact: `No frame of ${name} is in ${frames === 'all' ? 'the source' : frames}.`,
      wayOut: `Choose frames within ${printCoverage(present) || 'another source'}.`,
      subject: 'frames',
    },
  ];
}

/** Frames that differ or are missing, where the spec stops at them. */
function gapProblems(source: Source, spec: Spec, { differing, missing, damaged, present }: ChosenFrames): Problem[] {
  const { mixed, missing: how } = spec;
  const problems: Problem[] = [];
  const count = coverageCount(damaged);
  if (spec.damaged === 'fail' && count > 0 && isVideoFormat(spec.write.format))
    problems.push({
      code: 'damaged-frames',
      fact: `${count === 1 ? 'Frame' : 'Frames'} ${printCoverage(damaged)} of ${source.name} ${count === 1 ? 'is' : 'are'} damaged, and a video needs every picture.`,
      wayOut:
        'Treat damaged frames as missing: press "fail" in the sentence; or ask for them again, or choose other frames.',
      subject: 'damaged',
    });
  if (
    spec.damaged === 'as-missing' &&
    hasFrames(source) &&
    (source.checked ?? 0) < coverageCount(source.coverage) &&
    present.length > 0
  )
    problems.push({
      code: 'not-checked',
      fact: `Not every frame of ${source.name} has been decoded, so damaged ones are not known yet.`,
      wayOut: 'Check every frame first: on Inspect, or press "treat it as missing" in the sentence.',
      subject: 'damaged',
    });
  if (mixed === 'stop' && differing.length > 0)
    problems.push({
      code: 'mixed-pictures',
      fact: `${source.findings.find(({ code }) => isMixed(code))!.sentence}`,
      wayOut: 'Fit them, or leave them out and convert them separately: press "stop" in the sentence.',
      subject: 'mixed',
    });
  if (how === 'stop' && missing.length > 0)
    problems.push({
      code: 'missing-frames',
      fact: `${coverageCount(missing) === 1 ? 'Frame' : 'Frames'} ${printCoverage(missing)} of ${source.name} are missing.`,
      wayOut: 'Ask for them again, choose other frames, or leave them out.',
      subject: 'missing',
    });
  return problems;
}
