import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import type { Problem } from '@shale/core';
import { ProblemNote } from './Notes.tsx';

interface Props {
  /** What is kept, each with its version. */
  kept: readonly { id: number; name: string; version: number }[];
  onTake: (id: number) => void;
  /** Keeps what is in force under a name. @returns whether it was kept */
  onSave: (name: string) => Promise<boolean>;
  problem?: Problem;
}

/** Things kept under a name, to be taken again; a name that exists gets a new version. */
export function Shelf({ kept, onTake, onSave, problem }: Props) {
  const [name, setName] = useState('');
  const [naming, setNaming] = useState(false);
  const save = async () => {
    if (!(await onSave(name))) return;
    setNaming(false);
    setName('');
  };
  return (
    <>
      {naming ? (
        <Box
          component="form"
          sx={{ display: 'flex', gap: 1 }}
          onSubmit={(event) => (event.preventDefault(), void save())}
        >
          <TextField
            autoFocus
            fullWidth
            label="Name"
            value={name}
            onChange={({ target }) => setName(target.value)}
            onKeyDown={({ key }) => key === 'Escape' && setNaming(false)}
          />
          <Button type="submit" variant="outlined" disabled={name.trim() === ''}>
            Save
          </Button>
        </Box>
      ) : (
        <Box sx={{ display: 'flex', gap: 1 }}>
          <TextField
            select
            fullWidth
            value=""
            label={kept.length > 0 ? 'Take one' : 'None yet'}
            disabled={kept.length === 0}
            onChange={({ target }) => onTake(Number(target.value))}
          >
            {kept.map((one) => (
              <MenuItem key={one.id} value={one.id}>
                {one.name}, version {one.version}
              </MenuItem>
            ))}
          </TextField>
          <Button variant="outlined" onClick={() => setNaming(true)}>
            Save this
          </Button>
        </Box>
      )}
      {problem && <ProblemNote problem={problem} />}
    </>
  );
}
