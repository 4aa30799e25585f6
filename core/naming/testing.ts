import { coverageOf } from '../numbering/ranges.ts';
import { groupNames } from '../numbering/group.ts';
import { sourceSchema, type Source } from '../numbering/source.ts';
import { printPattern } from '../numbering/pattern.ts';
import { declare } from '../spec/declaration.ts';
import type { ToName } from './renamePlan.ts';

/** Sources of a folder's names, as a scan would find them, without headers. For tests. */
export function sourcesOf(folder: string, names: readonly string[], more: Partial<Source> = {}): ToName[] {
  const { sequences, stills, clips } = groupNames(names);
  const base = { folder, irregular: [], doubled: [], bytes: 1, modified: 0, weights: [], findings: [], ...more };
  const sources = [
    ...sequences.map((one) => ({
      ...base,
      kind: 'sequence',
      name: printPattern(one.pattern),
      pattern: one.pattern,
      coverage: coverageOf(one.frames),
      irregular: one.irregular,
      doubled: one.doubled,
      files: one.frames.length,
    })),
    ...[...stills, ...clips].map((at) => ({ ...base, kind: 'still', name: names[at]!, coverage: [], files: 1 })),
  ].map((source) => sourceSchema.parse(source));
  return sources.map((source) => ({
    id: `${folder}/${source.name}`,
    source,
    declaration: declare(source),
    date: '2026-11-25',
  }));
}

/** `pan.1.png` to `pan.N.png` by any form of the number. */
export const numbered = (first: number, last: number, name: (frame: number) => string): string[] =>
  Array.from({ length: last - first + 1 }, (_, at) => name(first + at));
