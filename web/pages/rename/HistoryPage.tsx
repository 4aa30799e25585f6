import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { Link } from 'react-router';
import { Virtuoso } from 'react-virtuoso';
import type { Problem } from '@shale/core';
import type { Rename } from '@shale/contract';
import { useRenamesQuery, useUndoRenameMutation } from '../../api/api.ts';
import { EmptyPage, Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { State } from '../../pieces/State.tsx';
import { goesBack } from './way.ts';

const words: Record<Rename['state'], { severity: 'note' | 'doubt' | 'fault'; text: string }> = {
  running: { severity: 'note', text: 'Running' },
  done: { severity: 'note', text: 'Carried out' },
  back: { severity: 'doubt', text: 'Reverted' },
  undone: { severity: 'doubt', text: 'Undone' },
  stuck: { severity: 'fault', text: 'Needs attention' },
};

function One({ rename, back }: { rename: Rename; back: boolean }) {
  const [undo, { error, isLoading }] = useUndoRenameMutation();
  const problem = (error as Problem | undefined) ?? rename.problem;
  const touched = problem?.code === 'touched-since';
  const { severity, text } =
    back && rename.state === 'done' ? { severity: 'note' as const, text: 'Names restored' } : words[rename.state];
  return (
    <Box data-testid="rename" data-state={rename.state} sx={{ borderBottom: 1, borderColor: 'divider', py: 1.5 }}>
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '150px minmax(0, 1fr) auto' },
          gap: 2,
          alignItems: 'start',
        }}
      >
        <Box>
          <State severity={severity}>{text}</State>
          <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>
            {new Date(rename.created).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
          </Typography>
        </Box>
        <Box sx={{ minWidth: 0, overflowWrap: 'anywhere' }}>
          <Typography sx={{ fontWeight: 600 }}>{rename.sentence}</Typography>
          {rename.example && (
            <Typography className="mono" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
              {rename.example[0]} → {rename.example[1]}
            </Typography>
          )}
        </Box>
        {rename.state === 'done' && (
          <Button
            variant="outlined"
            disabled={isLoading}
            onClick={() => void undo({ id: rename.id, rest: false })}
            aria-label={`${back ? 'Do it again' : 'Undo'}: ${rename.sentence}`}
          >
            {back ? 'Do it again' : 'Undo'}
          </Button>
        )}
      </Box>
      {problem && (
        <Box sx={{ mt: 1 }}>
          <ProblemNote
            problem={problem}
            action={
              touched ? (
                <Button onClick={() => void undo({ id: rename.id, rest: true })}>Undo what is possible</Button>
              ) : undefined
            }
          />
        </Box>
      )}
    </Box>
  );
}

/** Every rename that was carried out, with its way back. */
export function HistoryPage() {
  const { data: renames, error } = useRenamesQuery();
  const [box, setBox] = useState<HTMLElement | null>(null);
  if (error)
    return (
      <Box sx={{ p: 3 }}>
        <ProblemNote problem={error as Problem} />
      </Box>
    );
  if (!renames) return <Loading what="Reading the history" />;
  const toRename = (
    <Button component={Link} to="/rename" variant={renames.length > 0 ? 'outlined' : 'contained'}>
      Back to the names
    </Button>
  );
  if (renames.length === 0) {
    return (
      <EmptyPage title="Nothing renamed yet" action={toRename}>
        Every rename is listed here and can be undone, even after a restart.
      </EmptyPage>
    );
  }
  return (
    <Box ref={setBox} sx={{ height: { xs: '70vh', md: '100%' }, overflowY: 'auto', p: { xs: 1.5, md: '20px 24px' } }}>
      <Box sx={{ display: 'flex', alignItems: 'center', mb: 1 }}>
        <Typography variant="h1">History of renames</Typography>
        <Box sx={{ ml: 'auto' }}>{toRename}</Box>
      </Box>
      {box && (
        <Virtuoso
          customScrollParent={box}
          data={renames}
          computeItemKey={(_, { id }) => id}
          itemContent={(_, rename) => <One rename={rename} back={goesBack(rename, renames)} />}
        />
      )}
    </Box>
  );
}
