import type { ListedSource } from '@shale/contract';
import { isUndeclared, needsLook } from '../../pieces/words.ts';

/** Which sources a filter keeps. */
export const filters = {
  all: { words: 'All', keeps: () => true },
  look: { words: 'Need a look', keeps: needsLook },
  undeclared: { words: 'Rate not declared', keeps: isUndeclared },
  sequences: { words: 'Sequences', keeps: ({ kind }: ListedSource) => kind === 'sequence' },
  clips: { words: 'Clips', keeps: ({ kind }: ListedSource) => kind === 'clip' },
  stills: { words: 'Stills', keeps: ({ kind }: ListedSource) => kind === 'still' },
  sounds: { words: 'Sounds', keeps: ({ kind }: ListedSource) => kind === 'sound' },
} satisfies Record<string, { words: string; keeps: (source: ListedSource) => boolean }>;

export type FilterName = keyof typeof filters;

/** The folders directly below a root with how many sources lie in and below each. */
export function foldersOf(sources: readonly ListedSource[], root: string): { folder: string; count: number }[] {
  const counts = new Map<string, number>();
  for (const source of sources) {
    if (source.root !== root || source.folder === '') continue;
    const top = source.folder.split('/')[0]!;
    counts.set(top, (counts.get(top) ?? 0) + 1);
  }
  return [...counts].map(([folder, count]) => ({ folder, count })).sort((a, b) => (a.folder < b.folder ? -1 : 1));
}

/** Whether a source lies in or below a folder of its root; the empty folder holds all. */
export const liesIn = (source: ListedSource, folder: string): boolean =>
  folder === '' || source.folder === folder || source.folder.startsWith(`${folder}/`);
