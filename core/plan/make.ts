import type { Problem } from '../errors.ts';
import { coverageCount, coverageOf, parseCoverage, printCoverage } from '../numbering/ranges.ts';
import { frameName, type Pattern } from '../numbering/pattern.ts';
import { frameSpan, isConvertible, type Source } from '../numbering/source.ts';
import { nameFault } from '../naming/names.ts';
import { fileName, folderName, stemOf, templatePattern } from '../naming/template.ts';
import { bitsOf, nameValues } from '../naming/values.ts';
import { mixesColours } from '../pixels/convert.ts';
import { isUntouched } from '../pixels/picture.ts';
import type { Recipe } from '../pixels/recipe.ts';
import type { Primaries } from '../pixels/colourNames.ts';
import type { Declaration } from '../spec/declaration.ts';
import { formatRules, notReadWayOut, unreadAs } from '../spec/formats.ts';
import { burnsText } from '../spec/burn.ts';
import type { Spec } from '../spec/schema.ts';
import { isVideoFormat, stillWrites } from '../formats/index.ts';
import { endingOf } from '../spec/video.ts';
import { chromaLosses, differingLosses, knownLosses, missingLosses, soundLosses } from './losses.ts';
import { keptSource as kept, planOthers, type PlannedOthers } from './others.ts';
import { refusing } from './attempt.ts';
import { burnProblems } from './burnProblems.ts';
import { pictureProblems } from './pictureProblems.ts';
import type { Plan } from './plan.ts';
import { chooseFrames, isMixed, ratesOf, resultCount } from './runs.ts';
import { markedFrames, markedNames } from './marked.ts';
import { markedProblems, markedRuns, runsOf } from './results.ts';
import { takeShots } from './shots.ts';
import type { Given } from './given.ts';
import { timeLosses } from './timeLosses.ts';
import { keepsTime, planSound } from './sound.ts';
import { videoProblems } from './videoProblems.ts';

/**
 * Works a conversion out: every result, from which frame, with which name, and what is lost. Pure and quick: its size and
 * time go with the number of unbroken ranges, not of frames. What forbids the run is listed in `problems`, never thrown.
 * @param root the id of the source's root
 * @param given second sources, by what they are for
 */
export function makePlan(root: string, source: Source, declaration: Declaration, spec: Spec, given: Given = {}): Plan {
  const problems: Problem[] = [];
  const attempt = <T>(work: () => T, otherwise: T): T => refusing(problems, work, otherwise);

  if (!isConvertible(source)) {
    problems.push({
      code: 'not-frames',
      fact: `${source.name} is a ${source.kind}, not a sequence of frames.`,
      wayOut: 'Choose a sequence, a clip or a still; a sound is laid under a video.',
      subject: source.name,
    });
  }
  const atMarkers = spec.frames === 'markers';
  const wanted = attempt(
    () => (spec.frames === 'all' || atMarkers ? undefined : parseCoverage(spec.frames)),
    undefined,
  );
  const frames = chooseFrames(source, spec, wanted);
  const marked = atMarkers ? markedFrames(given.markers ?? [], spec.marked, frames.present, source.name) : undefined;
  if (marked) {
    problems.push(...marked.problems);
    frames.chosen = coverageOf([...new Set(marked.chosen.map(({ marker }) => marker.frame))]);
    frames.missing = [];
  }
  const { present, chosen, missing, differing } = frames;
  if (coverageCount(chosen) === 0 && !marked) {
    problems.push({
      code: 'no-frames',
      fact: `No frame of ${source.name} is in ${spec.frames === 'all' ? 'the source' : spec.frames}.`,
      wayOut: `Choose frames within ${printCoverage(present) || 'another source'}.`,
      subject: 'frames',
    });
  }
  if (spec.mixed === 'stop' && differing.length > 0) {
    problems.push({
      code: 'mixed-pictures',
      fact: `${source.findings.find(({ code }) => isMixed(code))!.sentence}`,
      wayOut: 'Let them be fitted, or leave them out and convert them by themselves: press "stop" in the sentence.',
      subject: 'mixed',
    });
  }
  if (spec.missing === 'stop' && missing.length > 0) {
    problems.push({
      code: 'missing-frames',
      fact: `${coverageCount(missing) === 1 ? 'Frame' : 'Frames'} ${printCoverage(missing)} of ${source.name} are missing.`,
      wayOut: 'Have them made again, choose other frames, or let them be left out.',
      subject: 'missing',
    });
  }

  const stem = spec.names.stem ?? (source.pattern ? stemOf(source.pattern) : source.name.replace(/\.[^.]*$/, ''));
  const ext = endingOf(spec);
  const fallback: Pattern = {
    prefix: `${stem}.`,
    padding: 4,
    suffix: `.${isVideoFormat(spec.write.format) ? 'png' : ext}`,
  };
  const rates = ratesOf(source, declaration, spec, given.holds);
  const values = {
    ...nameValues(source, declaration, rates.results),
    depth: bitsOf(spec.write.sample),
    stem,
    ext,
    tail: '',
  };
  const isFilm = isVideoFormat(spec.write.format);
  const file = isFilm ? attempt(() => fileName(spec.video.name, values), `${stem}.${ext}`) : null;
  const pattern = isFilm || marked ? fallback : attempt(() => templatePattern(spec.names.template, values), fallback);
  const stillNames =
    marked &&
    !isFilm &&
    attempt(() => markedNames(marked.chosen, spec.names.template, values, spec.names.first ?? 1), undefined);
  problems.push(...(stillNames ? stillNames.problems : []));
  // A declared first frame renumbers what the names say; a first number of the spec goes before it.
  const declared = declaration.first.value ?? present[0]?.first ?? 0;
  const shift =
    spec.names.first === null
      ? declared - (present[0]?.first ?? declared)
      : spec.names.first - (frameSpan([...chosen, ...missing].sort((a, b) => a.first - b.first))?.first ?? 0);

  problems.push(...formatProblems(source, declaration, spec));
  const { others, problems: othersProblems } = planOthers(spec.picture, given, chosen);
  problems.push(...othersProblems);
  const recipe = recipeOf(declaration, spec, others);
  const { shots, problems: shotProblems } = takeShots(source, declaration, spec, given.shots ?? []);
  problems.push(...shotProblems);
  for (const shot of shots) problems.push(...formatProblems(shot.source, shot.declaration, spec, true));
  const recipes = shots.map((shot) => recipeOf(shot.declaration, spec, others));
  const folder = attempt(() => folderName(spec.into.folder ?? (isFilm ? '' : stem), values), stem);
  const { runs, problems: runProblems } = marked
    ? { runs: markedRuns(marked.chosen, spec), problems: markedProblems(spec) }
    : runsOf({ source, declaration, frames }, shots, spec, shift, rates.inTime, given);
  problems.push(...runProblems);
  const copies =
    (spec.mixed !== 'fit' || (differing.length === 0 && shots.length === 0)) &&
    !runs.some(({ mix }) => mix !== undefined) &&
    copiesBytes(source, declaration, spec, recipe) &&
    shots.every((shot, at) => copiesBytes(shot.source, shot.declaration, spec, recipes[at]!));
  const results = resultCount(runs);
  const taken = [frames, ...shots.map((shot) => shot.frames)].reduce((sum, one) => sum + coverageCount(one.chosen), 0);
  const inTime = keepsTime(source, declaration, spec, chosen);
  const { sound, problems: soundProblems } = planSound(source, spec, given.sound, stem, inTime);
  problems.push(...soundProblems, ...videoProblems(source, declaration, spec, rates.results), ...burnProblems(spec));
  if (runs.some((run) => run.to < 0)) {
    problems.push({
      code: 'negative-number',
      fact: `The first result would be numbered ${runs[0]!.to}.`,
      wayOut: 'Start at 0 or above.',
      subject: 'names.first',
    });
  }
  const longest = file ?? (runs.length > 0 ? frameName(pattern, runs[runs.length - 1]!.to) : '');
  if (nameFault(longest)?.code === 'name-too-long') {
    problems.push({
      code: 'name-too-long',
      fact: `"${longest.slice(0, 40)}..." is longer than a file system takes.`,
      wayOut: 'Choose a shorter stem.',
      subject: 'names.stem',
    });
  }
  return {
    version: 1,
    root,
    source: kept(source),
    declaration,
    shots: shots.map((shot, at) => ({
      root: shot.root,
      source: kept(shot.source),
      declaration: shot.declaration,
      recipe: copies ? null : recipes[at]!,
      missing: shot.frames.missing,
    })),
    setAside: source.findings.flatMap(({ code, sentence, setAside }) =>
      setAside === undefined ? [] : [{ code, sentence, reason: setAside }],
    ),
    spec,
    runs,
    files: isFilm ? Math.min(1, results) : results,
    frames: results,
    taken,
    rate: rates.results,
    sound,
    missing,
    differing,
    others,
    into: {
      root: spec.into.root,
      folder,
      pattern,
      ...(file === null ? {} : { file }),
      ...(stillNames ? { names: stillNames.names } : {}),
    },
    copies,
    recipe: copies ? null : recipe,
    losses: [
      ...knownLosses(source.facts, copies ? null : recipe, spec, missing),
      ...shots.flatMap((shot) => missingLosses(shot.frames.missing, spec, shot.source.name)),
      ...differingLosses(differing, spec),
      ...timeLosses(source, spec, runs, taken, rates),
      ...chromaLosses(spec),
      ...soundLosses(source, spec, inTime),
    ],
    problems,
  };
}

/** What a source is taken to be; null where alpha or transfer are not declared. */
function takenOf(
  { alpha, transfer, primaries, pixelAspect, matte }: Declaration,
  otherwise?: Primaries,
): Recipe['from'] | null {
  if (alpha.value === null || transfer.value === null) return null;
  return {
    alpha: alpha.value,
    transfer: transfer.value,
    primaries: primaries.value ?? otherwise ?? 'bt709',
    pixelAspect: pixelAspect.value ?? { num: 1, den: 1 },
    matte: alpha.value === 'on-colour' ? matte.value : null,
  };
}

function recipeOf(declaration: Declaration, { write, picture }: Spec, { under }: PlannedOthers): Recipe | null {
  // Primaries that nobody asks to be changed need no name.
  const from = takenOf(declaration, write.primaries ?? undefined);
  if (!from) return null;
  return {
    from,
    under: under ? takenOf(under.declaration) : null,
    picture,
    to: {
      alpha: write.alpha,
      transfer: write.transfer,
      primaries: write.primaries ?? from.primaries,
      sample: write.sample,
      matte: write.alpha === 'premultiplied' ? write.matte : null,
    },
  };
}

/** Format, depth, alpha and transfer as they are: the file itself is the result. */
function copiesBytes(source: Source, declaration: Declaration, spec: Spec, recipe: Recipe | null): boolean {
  const { facts } = source;
  if (source.kind === 'clip' || spec.missing === 'slate' || burnsText(spec.burn)) return false;
  if (!facts || facts.format !== spec.write.format || facts.sample !== spec.write.sample) return false;
  if (!isUntouched(spec.picture) || recipe === null || mixesColours(recipe)) return false;
  if (declaration.transfer.value !== spec.write.transfer) return false;
  const { write } = spec;
  const compressed = isVideoFormat(write.format) ? undefined : stillWrites(write.format).compressedAs?.(write);
  if (compressed !== undefined && facts.compression !== compressed) return false;
  return facts.hasAlpha
    ? declaration.alpha.value === spec.write.alpha
    : formatRules[spec.write.format].alpha || spec.write.alpha === 'none';
}

/** @param isShot whether it follows another source, whose formats were looked at already */
function formatProblems(source: Source, declaration: Declaration, spec: Spec, isShot = false): Problem[] {
  const { write } = spec;
  const rules = formatRules[write.format];
  const problems: Problem[] = [];
  const add = (code: string, fact: string, wayOut: string, subject: string) =>
    problems.push({ code, fact, wayOut, subject });
  if (!source.facts) {
    add(
      'unreadable-source',
      `No frame of ${source.name} could be read.`,
      'See its findings on Intake, mend the files and scan again.',
      source.name,
    );
    return problems;
  }
  problems.push(...pictureProblems(source.name, source.facts, declaration, spec));
  const unread = unreadAs(source.facts);
  if (isConvertible(source) && unread) {
    add(
      'format-not-read',
      `${source.name} is ${unread}, which this version does not read.`,
      notReadWayOut,
      source.name,
    );
  }
  if (!isShot && !rules.samples.includes(write.sample)) {
    add(
      'depth-not-held',
      `${rules.words} does not hold ${write.sample}.`,
      `Choose one of ${rules.samples.join(', ')}.`,
      'write.sample',
    );
  }
  if (!isShot && !rules.alpha && write.alpha !== 'none' && write.alpha !== 'matte') {
    add('alpha-not-held', `${rules.words} holds no alpha.`, 'Choose "no alpha", or another format.', 'write.alpha');
  }
  if (declaration.alpha.value === null) {
    add(
      'alpha-not-declared',
      `${source.name} has alpha, and nothing says whether it is straight or premultiplied.`,
      'Declare its alpha: press it in the sentence, use Inspect, or give --alpha.',
      'declaration.alpha',
    );
  }
  if (declaration.alpha.value === 'on-colour' && declaration.matte.value === null) {
    add(
      'matte-not-declared',
      `${source.name} is declared to lie on a colour, and nothing says on which.`,
      'Declare the colour on Inspect; what the pixels say there shows the colour under the clear parts.',
      'declaration.matte',
    );
  }
  if (declaration.transfer.value === null) {
    const says = source.facts.transfer ? ` It says ${source.facts.transfer}, which is none that Shale converts.` : '';
    add(
      'transfer-not-declared',
      `Nothing says which transfer ${source.name} has.${says}`,
      'Declare its transfer: press it in the sentence, use Inspect, or give --transfer.',
      'declaration.transfer',
    );
  }
  return problems;
}
