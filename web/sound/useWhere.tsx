import { useState, type ReactNode } from 'react';
import { useRootsQuery } from '../api/api.ts';
import { Choice, Text } from '../pieces/slimFields.tsx';

/** A folder of a root that a result goes into. */
export interface Where {
  root: string;
  folder: string;
}

/**
 * Asks where a result goes: to Shale's own results, unless another root that may be written is chosen.
 * @param usual the folder that is proposed @param onSay called before the answer changes
 */
export function useWhere(usual: string, onSay: () => void): { where: Where | undefined; fields: ReactNode } {
  const { data: roots = [] } = useRootsQuery();
  const writable = roots.filter(({ writable }) => writable);
  const [said, setSaid] = useState<Partial<Where>>({});
  const say = (more: Partial<Where>) => {
    onSay();
    setSaid({ ...said, ...more });
  };
  const root = said.root ?? writable.find(({ id }) => id === 'results')?.id ?? writable[0]?.id;
  const folder = said.folder ?? usual;
  return {
    where: root === undefined ? undefined : { root, folder },
    fields: (
      <>
        <Choice
          label="Root"
          value={root ?? ''}
          options={writable.map(({ id, name }) => [id, name] as const)}
          onSay={(next) => say({ root: next })}
        />
        <Text label="Folder" mono value={folder} onSay={(next) => say({ folder: next })} />
      </>
    ),
  };
}

/** A name without its ending. */
export const stemOf = (name: string): string => name.replace(/\.[^.]+$/, '');
