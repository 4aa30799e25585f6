import { z } from 'zod';
import type { Problem } from '../errors.ts';
import { covers, printCoverage, type FrameRange } from '../numbering/ranges.ts';
import { fileOfFrame, frameSpan, isConvertible, isVideo, sourceSchema, type Source } from '../numbering/source.ts';
import { isOverSource, type AlphaFrom, type OverSource, type Picture } from '../pixels/picture.ts';
import { declarationSchema, type Declaration } from '../spec/declaration.ts';
import { isRead } from '../spec/formats.ts';
import type { Staged } from './attempt.ts';

/** What a second source is for: the picture is laid over it, or its alpha comes from it. */
export const roles = ['under', 'alphaFrom'] as const;
export type Role = (typeof roles)[number];

/** A second source as it was found, and what it is taken to be. */
export interface Other {
  root: string;
  source: Source;
  declaration: Declaration;
}
export type GivenOthers = Partial<Record<Role, Other>>;

/** What a plan keeps of a source. */
export const plannedSourceSchema = sourceSchema
  .pick({
    kind: true,
    folder: true,
    name: true,
    pattern: true,
    coverage: true,
    facts: true,
    irregular: true,
    modified: true,
    stamp: true,
  })
  // Plans of earlier versions did not say.
  .partial({ modified: true });
export type PlannedSource = z.infer<typeof plannedSourceSchema>;

/** What a plan keeps of a second source. */
export const otherSchema = z.object({
  root: z.string(),
  source: plannedSourceSchema,
  declaration: declarationSchema,
  offset: z.int(),
  ends: z.enum(['hold', 'loop', 'stop']),
});
export type PlannedOther = z.infer<typeof otherSchema>;
export type PlannedOthers = Partial<Record<Role, PlannedOther>>;

/** What a plan keeps of a source, without the rest. */
export function keptSource(source: PlannedSource): PlannedSource {
  const { kind, folder, name, pattern, coverage, facts, irregular, modified, stamp } = source;
  return { kind, folder, name, pattern, coverage, facts, irregular, modified, stamp };
}

/** What a picture asks for of second sources. */
export function askedOthers(picture: Picture): Partial<Record<Role, OverSource | AlphaFrom>> {
  return {
    ...(isOverSource(picture.over) ? { under: picture.over } : {}),
    ...(picture.alphaFrom ? { alphaFrom: picture.alphaFrom } : {}),
  };
}

const roleWords: Record<Role, string> = { under: 'the background', alphaFrom: 'where alpha comes from' };

/** The second sources of a plan, and what forbids their use. @param chosen the frames that are converted */
export function planOthers(picture: Picture, given: GivenOthers, chosen: readonly FrameRange[]): Staged<PlannedOthers> {
  const others: PlannedOthers = {};
  const problems: Problem[] = [];
  for (const [role, asked] of Object.entries(askedOthers(picture)) as [Role, OverSource | AlphaFrom][]) {
    const subject = role === 'under' ? 'picture.over' : 'picture.alphaFrom';
    const add = (code: string, fact: string, wayOut: string) => problems.push({ code, fact, wayOut, subject });
    const other = given[role];
    const { name, folder } = asked.source;
    if (!other) {
      add(
        'other-not-found',
        `${name} in ${folder || 'the root itself'}, ${roleWords[role]}, is not there.`,
        'Scan again, or choose another source.',
      );
      continue;
    }
    const { source, declaration, root } = other;
    others[role] = {
      root,
      source: keptSource(source),
      declaration,
      offset: asked.offset,
      ends: asked.ends,
    };
    problems.push(...otherProblems(role, other, asked, chosen).map((problem) => ({ ...problem, subject })));
  }
  return { value: others, problems };
}

function otherProblems(
  role: Role,
  { source, declaration }: Other,
  asked: OverSource | AlphaFrom,
  chosen: readonly FrameRange[],
): Omit<Problem, 'subject'>[] {
  const problems: Omit<Problem, 'subject'>[] = [];
  const add = (code: string, fact: string, wayOut: string) => problems.push({ code, fact, wayOut });
  const { name, facts, kind } = source;
  if (!isConvertible(source) || !facts || !isRead(facts)) {
    add('other-not-frames', `${name} is not a sequence or a still that can be read.`, 'Choose a sequence or a still.');
    return problems;
  }
  const { alpha, transfer } = declaration;
  if (role === 'under' && (alpha.value === null || transfer.value === null)) {
    add(
      'other-not-declared',
      `Nothing says ${alpha.value === null ? 'how the alpha' : 'which transfer'} of ${name} is meant.`,
      'Declare it on Inspect.',
    );
  }
  if ('use' in asked && asked.use === 'alpha' && !facts.hasAlpha)
    add('other-without-alpha', `${name} has no alpha to take.`, 'Use its luma, or choose another source.');
  const [first, last] = [frameSpan(chosen)?.first ?? 0, frameSpan(chosen)?.last ?? 0];
  const span = frameSpan(source.coverage);
  if (kind !== 'still' && span && asked.ends === 'stop') {
    const [from, to] = [span.first + asked.offset, span.first + asked.offset + (last - first)];
    if (from < span.first || to > span.last) {
      add(
        'other-too-short',
        `${name} has frames ${printCoverage(source.coverage)}, and ${from} to ${to} are needed.`,
        'Repeat its ends, loop it, or move it.',
      );
    }
  }
  return problems;
}

/**
 * The frame of a second source that goes with a frame of the first: as far behind its first frame as that one is behind the
 * first converted one. In a gap it is the frame before the gap.
 * @param first the first converted frame
 */
export function otherFrame({ source, offset, ends }: PlannedOther, frame: number, first: number): number {
  const span = frameSpan(source.coverage);
  if (source.kind === 'still' || !span) return 0;
  const count = span.last - span.first + 1;
  const place = frame - first + offset;
  const within = ends === 'loop' ? ((place % count) + count) % count : Math.min(count - 1, Math.max(0, place));
  let at = span.first + within;
  while (!covers(source.coverage, at)) at -= 1;
  return at;
}

/** A file of a second source, below its root, and which of its pictures is meant. */
export interface OtherFile {
  file: string;
  /** From 0; 0 but for clips. */
  picture: number;
  /** Whether it is a clip of video. */
  clip: boolean;
}

/** The files of second sources that go with a frame. */
export function otherFiles(
  { others, runs }: { others: PlannedOthers; runs: readonly { kind: string; from: number }[] },
  frame: number,
): Partial<Record<Role, OtherFile>> {
  const first = runs.find(({ kind }) => kind === 'write')?.from ?? frame;
  return Object.fromEntries(
    (Object.entries(others) as [Role, PlannedOther][]).map(([role, other]) => {
      const at = otherFrame(other, frame, first);
      const picture = other.source.kind === 'clip' ? at : 0;
      return [role, { file: fileOfFrame(other.source, at)!, picture, clip: isVideo(other.source) }];
    }),
  );
}
