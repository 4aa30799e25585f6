import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useLayoutEffect, useRef, useState } from 'react';
import type { Problem } from '@shale/core';
import type { FolderCount, Root } from '@shale/contract';
import { useRemoveRootMutation } from '../../api/api.ts';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { State } from '../../pieces/State.tsx';
import { printCount } from '../../pieces/words.ts';
import { AddFolder } from './AddFolder.tsx';
import { DropZone } from './DropZone.tsx';

/** A root, or a folder directly below one. */
export interface Place {
  root: string;
  folder: string;
}

interface Props {
  roots: Root[];
  folders: FolderCount[];
  place: Place;
  onChoose: (place: Place) => void;
}

/** The roots and their first folders with how many sources each holds, and where files are brought in. */
export function RootList({ roots, folders, place, onChoose }: Props) {
  const { tokens } = useTheme();
  const [adding, setAdding] = useState(false);
  const [remove, { error }] = useRemoveRootMutation();
  const chosen = useRef<HTMLButtonElement>(null);
  useLayoutEffect(() => {
    void chosen.current?.scrollIntoView({ block: 'nearest' });
  }, [place.root, place.folder]);
  const entry = (words: string, count: number, at: Place, inner: boolean) => {
    const on =
      at.root === place.root &&
      (at.folder === place.folder || place.folder.startsWith(`${at.folder}/`)) &&
      (inner || place.folder === '');
    return (
      <ButtonBase
        key={`${at.root}/${at.folder}`}
        ref={on ? chosen : undefined}
        onClick={() => onChoose(at)}
        aria-current={on || undefined}
        title={words}
        sx={{
          width: '100%',
          justifyContent: 'space-between',
          gap: 1,
          fontFamily: 'inherit',
          fontSize: 14,
          p: '5px 8px',
          pl: inner ? '22px' : '8px',
          borderRadius: '4px',
          textAlign: 'left',
          bgcolor: on ? tokens.actWash : 'transparent',
          color: on ? tokens.act : 'text.primary',
          fontWeight: on ? 600 : 400,
          '&:hover': { bgcolor: tokens.actWash },
        }}
      >
        <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
          {words}
        </Box>
        <span className="mono">{printCount(count)}</span>
      </ButtonBase>
    );
  };
  return (
    <Box
      component="aside"
      aria-label="Roots"
      sx={{
        display: 'grid',
        gridTemplateRows: 'minmax(0, 1fr) auto',
        borderRight: 1,
        borderColor: 'divider',
        minHeight: 0,
      }}
    >
      <Box
        sx={{
          p: { xs: '12px', md: '20px 12px 12px 24px' },
          overflowY: 'auto',
          minHeight: 0,
          maxHeight: { xs: 150, md: 'none' },
        }}
      >
        <Box sx={{ display: 'flex', alignItems: 'baseline', mb: 1 }}>
          <Typography variant="h2">Roots</Typography>
          <Link
            component="button"
            onClick={() => setAdding(true)}
            sx={{ ml: 'auto', mr: 1, fontSize: 13, fontFamily: 'inherit' }}
          >
            Add a folder
          </Link>
        </Box>
        {error && <ProblemNote problem={error as Problem} />}
        {roots.map((root) => (
          <Box key={root.id} sx={{ mb: 0.75 }}>
            {entry(root.name, root.sources, { root: root.id, folder: '' }, false)}
            {root.problem && (
              <Box sx={{ pl: 1, py: 0.5 }} title={`${root.problem.fact} ${root.problem.wayOut}`}>
                <State severity="fault">Cannot be read</State>
              </Box>
            )}
            {folders
              .filter((one) => one.root === root.id)
              .map(({ folder, count }) => entry(folder, count, { root: root.id, folder }, true))}
            {root.added && place.root === root.id && (
              <Link
                component="button"
                title="Files on the disk stay"
                onClick={() => void remove(root.id)}
                sx={{ ml: '22px', mt: 0.5, fontSize: 12.5, fontFamily: 'inherit', color: 'text.secondary' }}
              >
                Remove from the list
              </Link>
            )}
          </Box>
        ))}
      </Box>
      <DropZone />
      {adding && (
        <AddFolder
          onClose={() => setAdding(false)}
          onAdded={({ id }) => {
            setAdding(false);
            onChoose({ root: id, folder: '' });
          }}
        />
      )}
    </Box>
  );
}
