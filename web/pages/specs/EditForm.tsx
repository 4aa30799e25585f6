import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState, type ReactNode } from 'react';
import { problemOf, type Problem } from '@shale/core';
import { ProblemNote } from '../../pieces/Notes.tsx';

interface Props {
  label: string;
  /** Reads what the fields hold and keeps it. @returns whether it was kept; a problem that it throws is shown */
  onSave: () => Promise<boolean>;
  onLeave: () => void;
  /** What the server says against it. */
  problem?: Problem;
  children: ReactNode;
}

/** Fields with their save and their way out. */
export function EditForm({ label, onSave, onLeave, problem, children }: Props) {
  const [refusal, setRefusal] = useState<Problem>();
  const save = async () => {
    try {
      if (await onSave()) onLeave();
    } catch (error) {
      setRefusal(problemOf(error));
    }
  };
  const told = refusal ?? problem;
  return (
    <Box
      component="form"
      aria-label={label}
      onSubmit={(event) => (event.preventDefault(), void save())}
      sx={{ display: 'grid', gap: 2.25 }}
    >
      {children}
      {told && <ProblemNote problem={told} />}
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button type="submit" variant="contained">
          Save
        </Button>
        <Button variant="text" onClick={onLeave}>
          Discard changes
        </Button>
      </Box>
    </Box>
  );
}
