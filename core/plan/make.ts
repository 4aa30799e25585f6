import { problemOf, ShaleError, type Problem } from '../errors.ts';
import {
  coverageCount,
  coverageOf,
  covers,
  framesOf,
  intersect,
  missingFrom,
  parseCoverage,
  printCoverage,
  rangeCount,
  type FrameRange,
} from '../numbering/ranges.ts';
import { frameName, type Pattern } from '../numbering/pattern.ts';
import { frameSpan, isConvertible, type Source } from '../numbering/source.ts';
import { nameFault } from '../naming/names.ts';
import { stemOf, templatePattern } from '../naming/template.ts';
import { bitsOf, nameValues } from '../naming/values.ts';
import { mixesColours, movesNothing } from '../pixels/convert.ts';
import { sampleWords } from '../pixels/image.ts';
import type { Recipe } from '../pixels/recipe.ts';
import type { Declaration, Primaries } from '../spec/declaration.ts';
import { formatRules, isRead, type Spec } from '../spec/schema.ts';
import { differingLosses, knownLosses } from './losses.ts';
import { planOthers, type GivenOthers, type PlannedOthers } from './others.ts';
import { pictureProblems } from './pictureProblems.ts';
import type { Plan, PlanRun } from './plan.ts';

/**
 * Works a conversion out: every result, from which frame, with which name, and what is lost. Pure and quick: its size and
 * time go with the number of unbroken ranges, not of frames. What forbids the run is listed in `problems`, never thrown.
 * @param root the id of the source's root
 * @param given second sources, by what they are for
 */
export function makePlan(
  root: string,
  source: Source,
  declaration: Declaration,
  spec: Spec,
  given: GivenOthers = {},
): Plan {
  const problems: Problem[] = [];
  const attempt = <T>(work: () => T, otherwise: T): T => {
    try {
      return work();
    } catch (error) {
      if (!(error instanceof ShaleError)) throw error;
      problems.push(problemOf(error));
      return otherwise;
    }
  };

  if (!isConvertible(source)) {
    problems.push({
      code: 'not-frames',
      fact: `${source.name} is a ${source.kind}, not a sequence of frames.`,
      wayOut: 'This version converts sequences and stills; choose one of those.',
      subject: source.name,
    });
  }
  const present = source.kind === 'still' ? [{ first: 0, last: 0, step: 1 }] : source.coverage;
  const wanted = attempt(() => (spec.frames === 'all' ? undefined : parseCoverage(spec.frames)), undefined);
  const asked = wanted ? intersect(present, wanted) : present;
  const differing = intersect(asked, mixedFrames(source));
  const chosen = spec.mixed === 'leave-out' ? without(asked, differing) : asked;
  const missing = wanted ? missingFromWanted(present, wanted) : missingFrom(present);
  if (coverageCount(chosen) === 0) {
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
  const ext = formatRules[spec.write.format].ext;
  const fallback: Pattern = { prefix: `${stem}.`, padding: 4, suffix: `.${ext}` };
  const values = { ...nameValues(source, declaration), depth: bitsOf(spec.write.sample), stem, ext, tail: '' };
  const pattern = attempt(() => templatePattern(spec.names.template, values), fallback);
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
  const copies = (spec.mixed !== 'fit' || differing.length === 0) && copiesBytes(source, declaration, spec, recipe);
  const folder = spec.into.folder ?? stem;
  const runs = runsOf(chosen, missing, shift);
  if (runs.some((run) => run.to < 0)) {
    problems.push({
      code: 'negative-number',
      fact: `The first result would be numbered ${runs[0]!.to}.`,
      wayOut: 'Start at 0 or above.',
      subject: 'names.first',
    });
  }
  const longest = runs.length > 0 ? frameName(pattern, runs[runs.length - 1]!.to) : '';
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
    source: {
      kind: source.kind,
      folder: source.folder,
      name: source.name,
      pattern: source.pattern,
      coverage: source.coverage,
      facts: source.facts,
      irregular: source.irregular,
    },
    declaration,
    setAside: source.findings.flatMap(({ code, sentence, setAside }) =>
      setAside === undefined ? [] : [{ code, sentence, reason: setAside }],
    ),
    spec,
    runs,
    files: coverageCount(chosen),
    missing,
    differing,
    others,
    into: { root: spec.into.root, folder, pattern },
    copies,
    recipe: copies ? null : recipe,
    losses: [...knownLosses(source.facts, copies ? null : recipe, spec, missing), ...differingLosses(differing, spec)],
    problems,
  };
}

const isMixed = (code: string): boolean => code === 'mixed-size' || code === 'mixed-channels';

/** Frames whose picture is not like most of the source's. */
const mixedFrames = ({ findings }: Source): FrameRange[] => {
  const frames = findings.flatMap((finding) => (isMixed(finding.code) ? (finding.frames ?? []) : []));
  return coverageOf([...new Set(frames.flatMap((range) => [...framesOf([range])]))].sort((a, b) => a - b));
};

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

/** Runs in order of their first frame, the missing ones between the written ones. */
function runsOf(chosen: readonly FrameRange[], missing: readonly FrameRange[], shift: number): PlanRun[] {
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
  return [...chosen.map(run('write')), ...missing.map(run('missing'))].sort((a, b) => a.from - b.from);
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
  if (!facts || facts.format !== spec.write.format || facts.sample !== spec.write.sample) return false;
  const { layer, alphaFrom } = spec.picture;
  if (layer !== null || alphaFrom !== null || !movesNothing(spec.picture)) return false;
  if (recipe === null || mixesColours(recipe)) return false;
  if (declaration.transfer.value !== spec.write.transfer) return false;
  if (spec.write.format === 'exr' && facts.compression !== spec.write.exrCompression) return false;
  return facts.hasAlpha
    ? declaration.alpha.value === spec.write.alpha
    : formatRules[spec.write.format].alpha || spec.write.alpha === 'none';
}

function formatProblems(source: Source, declaration: Declaration, spec: Spec): Problem[] {
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
  if (isConvertible(source) && !isRead(source.facts)) {
    const { format, sample } = source.facts;
    add(
      'format-not-read',
      `${source.name} is ${format.toUpperCase()} of ${sampleWords(sample)}: of such files this version reads the header only.`,
      'Have it made as PNG, TIFF of 8 or 16 bits, or OpenEXR.',
      source.name,
    );
  }
  if (!rules.samples.includes(write.sample)) {
    add(
      'depth-not-held',
      `${rules.words} does not hold ${write.sample}.`,
      `Choose one of ${rules.samples.join(', ')}.`,
      'write.sample',
    );
  }
  if (!rules.alpha && write.alpha !== 'none' && write.alpha !== 'matte') {
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
