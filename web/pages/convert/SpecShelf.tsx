import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import type { Problem, Spec } from '@shale/core';
import { useSaveSpecMutation, useSpecsQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { ProblemNote } from '../../pieces/Notes.tsx';

/** Specs kept under a name, to be taken again; a name that exists gets a new version. */
export function SpecShelf({ spec, onTake }: { spec: Spec; onTake: (spec: Spec) => void }) {
  const { data: specs = [] } = useSpecsQuery();
  const [save, { error }] = useSaveSpecMutation();
  const [name, setName] = useState('');
  const [naming, setNaming] = useState(false);
  const keep = async () => {
    const done = await save({ name, spec });
    if ('data' in done) {
      setNaming(false);
      setName('');
    }
  };
  return (
    <Card title="Saved specs" sx={{ flex: 'none' }}>
      {naming ? (
        <Box
          component="form"
          sx={{ display: 'flex', gap: 1 }}
          onSubmit={(event) => (event.preventDefault(), void keep())}
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
            label={specs.length > 0 ? 'Take one' : 'None yet'}
            disabled={specs.length === 0}
            onChange={({ target }) => onTake(specs.find(({ id }) => id === Number(target.value))!.spec)}
          >
            {specs.map((one) => (
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
      {error && <ProblemNote problem={error as Problem} />}
    </Card>
  );
}
