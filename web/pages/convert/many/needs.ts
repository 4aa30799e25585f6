import { parseCoverage, coverageCount, plural, printRate, type Problem, type Rate } from '@shale/core';
import type { PlannedPart } from '@shale/contract';
import { printCount } from '../../../pieces/words.ts';

/** What mends a need, by one press. */
export type Mend =
  | { kind: 'rate'; rate: Rate; sources: string[] }
  | { kind: 'hold'; sources: string[] }
  | { kind: 'apart' }
  | { kind: 'new' }
  /** What a receiver would trip over, wherever a press mends it. */
  | { kind: 'receiver' };

/** What a source of a batch needs, or what of it is worth a word. */
export interface Need {
  severity: 'doubt' | 'fault';
  words: string;
  /** All of it, where the words are too few. */
  why?: string;
  /** Whether it waits for that. */
  stops: boolean;
  mend?: { words: string; mend: Mend };
}

/** A need of a kind in a few words: what fits into a row. */
const shortWords: Record<string, string> = {
  'rate-not-declared': 'Rate not declared',
  'alpha-not-declared': 'Alpha not declared',
  'transfer-not-declared': 'Transfer not declared',
  'output-exists': 'Names exist already',
  'output-claimed': 'A job is writing these names',
  'same-names': 'Same names as another source',
  'not-frames': 'Has no frames',
  'missing-frames': 'Frames missing',
  'root-read-only': 'Folder is read-only',
  'bad-spec': 'Its own settings do not apply',
};

/** What parts of a batch need, looked up by source: so that "for these 2" is counted once. */
export interface Needs {
  byCode: Map<string, string[]>;
  /** Sources with missing frames that are left out. */
  gaps: string[];
  /** Sources that a receiver would trip over. */
  broken: string[];
  rate: Rate;
}

/** @param leavesOut whether a part leaves missing frames out */
export function needsOf(
  parts: readonly PlannedPart[],
  rate: Rate,
  leavesOut: (part: PlannedPart) => boolean = () => true,
): Needs {
  const byCode = new Map<string, Set<string>>();
  const gaps = new Set<string>();
  const broken = new Set<string>();
  for (const part of parts) {
    const { source, problems, missing, breaches } = part;
    if (breaches.length > 0) broken.add(source);
    for (const { code } of problems) byCode.set(code, (byCode.get(code) ?? new Set()).add(source));
    if (missing !== '' && leavesOut(part)) gaps.add(source);
  }
  return {
    byCode: new Map([...byCode].map(([code, ids]) => [code, [...ids]])),
    gaps: [...gaps],
    broken: [...broken],
    rate,
  };
}

const forThese = (count: number): string => (count > 1 ? ` for these ${count}` : '');

/** The mend of a problem, where one press mends it. */
function mendOf({ code }: Problem, needs: Needs): Need['mend'] {
  const sources = needs.byCode.get(code) ?? [];
  switch (code) {
    case 'rate-not-declared':
      return {
        words: `${printRate(needs.rate)}${forThese(sources.length)}`,
        mend: { kind: 'rate', rate: needs.rate, sources },
      };
    case 'same-names':
      return { words: 'A folder for each', mend: { kind: 'apart' } };
    case 'output-exists':
      return { words: 'Only new or changed', mend: { kind: 'new' } };
    case 'missing-frames':
      return { words: `Repeat the previous frame${forThese(sources.length)}`, mend: { kind: 'hold', sources } };
    default:
      return undefined;
  }
}

/** What the parts of a source need; undefined where there is nothing to say. */
export function needOf(parts: readonly PlannedPart[], needs: Needs): Need | undefined {
  const problem = parts.flatMap(({ problems }) => problems)[0];
  if (problem) {
    const isWord = problem.code.endsWith('-not-declared') || problem.code === 'output-exists';
    const mend = mendOf(problem, needs);
    return {
      severity: isWord ? 'doubt' : 'fault',
      words: shortWords[problem.code] ?? problem.fact,
      stops: true,
      ...(mend ? { mend } : {}),
    };
  }
  const breaches = parts.flatMap((part) => part.breaches);
  if (breaches.length > 0) {
    const sources = needs.broken.length;
    return {
      severity: breaches.every(({ unknown }) => unknown) ? 'doubt' : 'fault',
      words: `${plural(breaches.length, 'rule')} of the receiver broken`,
      why: breaches.map(({ sentence }) => sentence).join(' '),
      stops: false,
      mend: { words: `Mend${forThese(sources)}`, mend: { kind: 'receiver' } },
    };
  }
  const gap = parts.find((part) => part.missing !== '');
  if (!gap || !needs.gaps.includes(gap.source)) return undefined;
  const { missing } = gap;
  const sources = needs.gaps;
  return {
    severity: 'doubt',
    words: `${plural(coverageCount(parseCoverage(missing)), 'frame')} missing`,
    stops: false,
    mend: { words: `Repeat the previous frame${forThese(sources.length)}`, mend: { kind: 'hold', sources } },
  };
}

/** What comes of a source: `60 + 1`, files of pictures and videos; `3 new` where the others stay. */
export function countsOf(parts: readonly PlannedPart[]): string {
  const sum = (of: readonly PlannedPart[], count: (part: PlannedPart) => number) =>
    of.reduce((all, part) => all + count(part), 0);
  const files = sum(parts, (part) => part.files);
  const kept = sum(parts, (part) => part.kept);
  if (kept > 0) return kept === files ? 'complete' : `${printCount(files - kept)} new`;
  const videos = sum(
    parts.filter(({ into }) => into.isVideo),
    (part) => part.files,
  );
  if (videos === 0) return printCount(files);
  return files === videos ? plural(videos, 'video') : `${printCount(files - videos)} + ${printCount(videos)}`;
}
