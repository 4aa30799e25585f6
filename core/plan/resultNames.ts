import type { Problem } from '../errors.ts';
import { isVideoFormat } from '../formats/index.ts';
import { nameFault } from '../naming/names.ts';
import { fileName, folderName, stemOf, templatePattern } from '../naming/template.ts';
import { bitsOf, nameValues } from '../naming/values.ts';
import { loneNumber, type Pattern } from '../numbering/pattern.ts';
import { frameSpan, type Source } from '../numbering/source.ts';
import type { Declaration } from '../spec/declaration.ts';
import { usualTemplate, type Spec } from '../spec/schema.ts';
import { isPlainTime } from '../spec/time.ts';
import { endingOf } from '../spec/video.ts';
import type { Rate } from '../timing/rate.ts';
import { refusing, type Staged } from './attempt.ts';
import { plainPattern, resultName, type Into } from './into.ts';
import { markedNames } from './marked.ts';
import type { PlanRun } from './plan.ts';
import type { ChosenFrames } from './runs.ts';
import type { Wanted } from './wanted.ts';

/** Where results go and what they are called. @param rate of the results @param held what the source's folder is called, where it is the root */
export function resultNames(
  source: Source,
  declaration: Declaration,
  spec: Spec,
  { marked }: Wanted,
  rate: Rate | null,
  held: string | undefined,
): Staged<Into> {
  const problems: Problem[] = [];
  const attempt = <T>(work: () => T, otherwise: T): T => refusing(problems, work, otherwise);
  const { write, names } = spec;
  const counted = source.pattern ?? loneOf(source)?.pattern;
  const stem = names.stem ?? (counted ? stemOf(counted) : source.name.replace(/\.[^.]*$/, ''));
  const ext = endingOf(spec);
  const layer = (spec.picture.layer ?? 'main').replace(/[^\p{L}\p{N}._-]+/gu, '_');
  const place = source.folder === '' && held !== undefined ? { folder: held, path: held } : {};
  const values = {
    ...nameValues(source, declaration, rate),
    ...place,
    depth: bitsOf(write.sample),
    stem,
    ext,
    layer,
    tail: '',
  };
  const isVideo = isVideoFormat(write.format);
  const called = (): { kind: 'video'; file: string } | { kind: 'sequence'; pattern: Pattern } | Named => {
    if (isVideo) return { kind: 'video', file: attempt(() => fileName(spec.video.name, values), `${stem}.${ext}`) };
    const fallback = { kind: 'sequence', pattern: plainPattern(stem, ext) } as const;
    // One picture without a number needs none, unless a number or a name of its own form is asked for.
    if (source.kind === 'still' && !counted && isOneUsual(spec))
      return { kind: 'stills', names: { [declaration.first.value ?? 0]: `${stem}.${ext}` } };
    if (!marked)
      return attempt(() => ({ kind: 'sequence', pattern: templatePattern(names.template, values) }), fallback);
    const made = attempt(() => markedNames(marked, names.template, values, names.first ?? 1), undefined);
    problems.push(...(made?.problems ?? []));
    return made ? { kind: 'stills', names: made.value } : fallback;
  };
  const result = called();
  const folder = attempt(() => folderName(spec.into.folder ?? (isVideo ? '' : stem), values), stem);
  return { value: { root: spec.into.root, folder, stem, ...result }, problems };
}

/** Whether of a still one result is wanted, and no number and no form of its name is asked for. */
const isOneUsual = ({ names, time, then }: Spec): boolean =>
  names.first === null && names.template === usualTemplate && isPlainTime(time) && then.length === 0;

/** The number that a still has in its name. */
const loneOf = ({ kind, name }: Pick<Source, 'kind' | 'name'>) => (kind === 'still' ? loneNumber(name) : undefined);

interface Named {
  kind: 'stills';
  names: Record<string, string>;
}

/**
 * What is added to a source frame's number for that of its result: a declared first frame renumbers what the names say, a first
 * number of the spec goes before it.
 */
export function shiftOf(
  source: Pick<Source, 'kind' | 'name'>,
  { first }: Declaration,
  { names }: Spec,
  { begins, chosen, missing }: ChosenFrames,
): number {
  if (names.first === null) return begins === undefined ? 0 : (first.value ?? loneOf(source)?.frame ?? begins) - begins;
  return names.first - (frameSpan([...chosen, ...missing].sort((a, b) => a.first - b.first))?.first ?? 0);
}

/** Numbers below 0, and names that are longer than a file system takes. */
export function nameProblems(into: Into, runs: readonly PlanRun[]): Problem[] {
  const problems: Problem[] = [];
  if (runs.some((run) => run.to < 0))
    problems.push({
      code: 'negative-number',
      fact: `The first result would be numbered ${runs[0]!.to}.`,
      wayOut: 'Start at 0 or above.',
      subject: 'names.first',
    });
  const last = runs[runs.length - 1];
  const longest = into.kind === 'video' || (last && into.kind === 'sequence') ? resultName(into, last?.to ?? 0) : '';
  if (nameFault(longest)?.code === 'name-too-long')
    problems.push({
      code: 'name-too-long',
      fact: `"${longest.slice(0, 40)}..." is longer than a file system takes.`,
      wayOut: 'Choose a shorter stem.',
      subject: 'names.stem',
    });
  return problems;
}
