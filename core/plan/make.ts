import { isVideoFormat } from '../formats/index.ts';
import { coverageCount } from '../numbering/ranges.ts';
import type { Source } from '../numbering/source.ts';
import type { Declaration } from '../spec/declaration.ts';
import type { Spec } from '../spec/schema.ts';
import { burnProblems } from './burnProblems.ts';
import type { Given } from './given.ts';
import { channelLosses, planChannels } from './channels.ts';
import {
  animationLosses,
  chromaLosses,
  damagedLosses,
  differingLosses,
  knownLosses,
  lossyWords,
  missingLosses,
  soundLosses,
} from './losses.ts';
import { keptSource as kept, planOthers } from './others.ts';
import type { Plan } from './plan.ts';
import { copiesBytes, recipeOf } from './recipes.ts';
import { nameProblems, resultNames, shiftOf } from './resultNames.ts';
import { markedProblems, markedRuns, runsOf } from './results.ts';
import { ratesOf, resultCount } from './runs.ts';
import { takeShots } from './shots.ts';
import { keepsTime, planSound } from './sound.ts';
import { sourceProblems, writeProblems } from './sourceProblems.ts';
import { timeLosses } from './timeLosses.ts';
import { videoProblems } from './videoProblems.ts';
import { throughWindow, windowLosses, windowTaken } from './window.ts';
import { wantedFrames } from './wanted.ts';

/**
 * Works a conversion out: every result, from which frame, with which name, and what is lost. Pure and quick: its size and
 * time go with the number of unbroken ranges, not of frames. It goes by stages, each of which gives a value and its problems:
 * what forbids the run is listed, never thrown.
 * @param root the id of the source's root
 * @param given second sources, by what they are for
 */
export function makePlan(root: string, found: Source, declaration: Declaration, spec: Spec, given: Given = {}): Plan {
  const source = throughWindow(found, spec);
  const rates = ratesOf(source, declaration, spec, given.holds);
  const wanted = wantedFrames(source, spec, given);
  const { frames, marked } = wanted.value;
  const { chosen, missing, differing, damaged } = frames;
  const into = resultNames(source, declaration, spec, wanted.value, rates.results, given.folder);
  const others = planOthers(spec.picture, given, chosen);
  const joined = planChannels(source, spec, given.joined ?? []);
  const carries = spec.channels.length > 0;
  const shots = takeShots(source, declaration, spec, given.shots ?? []);
  const shift = shiftOf(source, declaration, spec, frames);
  const made = marked
    ? { value: markedRuns(marked, spec), problems: markedProblems(spec) }
    : runsOf({ source, declaration, frames }, shots.value, spec, shift, rates.inTime, given);
  const runs = made.value;
  const inTime = keepsTime(source, declaration, spec, chosen);
  const sound = planSound(source, spec, given.sound, into.value.stem, inTime);

  const recipe = recipeOf(declaration, spec, others.value);
  const followed = shots.value.map((shot) => ({ ...shot, recipe: recipeOf(shot.declaration, spec, others.value) }));
  const hasOthers = Object.keys(others.value).length > 0 || followed.length > 0;
  const fits = spec.mixed === 'fit' && (differing.length > 0 || followed.length > 0);
  const copies =
    !carries &&
    !fits &&
    !runs.some(({ mix }) => mix !== undefined) &&
    [{ source, declaration, recipe }, ...followed].every((one) =>
      copiesBytes(one.source, one.declaration, spec, one.recipe),
    );
  const results = resultCount(runs);
  const taken = [frames, ...followed.map((shot) => shot.frames)].reduce(
    (sum, one) => sum + coverageCount(one.chosen),
    0,
  );
  return {
    version: 1,
    root,
    source: kept(source),
    declaration,
    shots: followed.map((shot) => ({
      root: shot.root,
      source: kept(shot.source),
      declaration: shot.declaration,
      recipe: copies ? null : shot.recipe,
      missing: shot.frames.missing,
    })),
    setAside: source.findings.flatMap(({ code, sentence, setAside }) =>
      setAside === undefined ? [] : [{ code, sentence, reason: setAside }],
    ),
    spec,
    runs,
    files: isVideoFormat(spec.write.format) ? Math.min(1, results) : results,
    frames: results,
    taken,
    rate: rates.results,
    sound: sound.value,
    missing,
    differing,
    damaged,
    others: others.value,
    joined: joined.value,
    into: into.value,
    copies,
    window: windowTaken(source, spec, hasOthers),
    recipe: copies ? null : recipe,
    losses: [
      ...(carries
        ? [...missingLosses(missing, spec), ...channelLosses(source, spec, lossyWords(spec))]
        : knownLosses(source.facts, copies ? null : recipe, spec, missing)),
      ...followed.flatMap((shot) => missingLosses(shot.frames.missing, spec, shot.source.name)),
      ...windowLosses(source, spec, copies, hasOthers),
      ...damagedLosses(damaged, spec),
      ...differingLosses(differing, spec),
      ...timeLosses(source, spec, runs, taken, rates),
      ...chromaLosses(spec),
      ...animationLosses(spec, rates.results),
      ...soundLosses(source, spec, inTime),
    ],
    problems: [
      ...wanted.problems,
      ...into.problems,
      ...sourceProblems(source, declaration, spec),
      ...writeProblems(spec),
      ...others.problems,
      ...joined.problems,
      ...shots.problems,
      ...followed.flatMap((shot) => sourceProblems(shot.source, shot.declaration, spec)),
      ...made.problems,
      ...sound.problems,
      ...videoProblems(source, declaration, spec, rates.results),
      ...burnProblems(spec),
      ...nameProblems(into.value, runs),
    ],
  };
}
