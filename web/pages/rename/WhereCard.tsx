import Box from '@mui/material/Box';
import FormControlLabel from '@mui/material/FormControlLabel';
import MenuItem from '@mui/material/MenuItem';
import Switch from '@mui/material/Switch';
import TextField from '@mui/material/TextField';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { modeWords, renameModeSchema, type NamingSpec } from '@shale/core';
import type { Root } from '@shale/contract';
import { Card } from '../../pieces/Card.tsx';

const notes: Record<NamingSpec['mode'], string> = {
  rename: 'In place. Undo it from History.',
  copy: 'The originals stay as they are.',
  link: 'A second name for the same file: instant, no extra space.',
  move: 'Names and folders change, contents do not.',
};

interface Props {
  spec: NamingSpec;
  roots: readonly Root[];
  /** The root of the sources. */
  own: Root | undefined;
  several: boolean;
  onChange: (spec: NamingSpec) => void;
}

/** Where the names are given: on the spot, or elsewhere. */
export function WhereCard({ spec, roots, own, several, onChange }: Props) {
  const writable = roots.filter((root) => root.writable);
  const setMode = (mode: NamingSpec['mode']) => {
    const stays = spec.into.root ?? (own?.writable ? null : (writable[0]?.id ?? null));
    onChange({ ...spec, mode, into: mode === 'rename' ? { root: null, folder: null } : { ...spec.into, root: stays } });
  };
  return (
    <Card title="Where" sx={{ flex: 'none' }}>
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={spec.mode}
        aria-label="What happens to the files"
        onChange={(_, mode: NamingSpec['mode'] | null) => mode && setMode(mode)}
      >
        {renameModeSchema.options.map((mode) => (
          <ToggleButton
            key={mode}
            value={mode}
            sx={{ py: '3px', textTransform: 'none', fontSize: 13, whiteSpace: 'nowrap' }}
          >
            {mode === 'rename' ? 'Here' : modeWords[mode]}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <Typography sx={{ fontSize: 12.5, color: 'text.secondary', mt: 0.75 }}>{notes[spec.mode]}</Typography>
      {spec.mode !== 'rename' && (
        <Box sx={{ display: 'grid', gap: 1.5, mt: 1.5 }}>
          <TextField
            select
            fullWidth
            label="Root"
            value={spec.into.root ?? own?.id ?? ''}
            onChange={({ target }) => onChange({ ...spec, into: { ...spec.into, root: target.value } })}
          >
            {writable.map(({ id, name }) => (
              <MenuItem key={id} value={id}>
                {name}
              </MenuItem>
            ))}
            {own && !own.writable && (
              <MenuItem value={own.id} disabled>
                {own.name}, read-only
              </MenuItem>
            )}
          </TextField>
          <TextField
            fullWidth
            label="Folder"
            value={spec.into.folder ?? ''}
            placeholder="{path}"
            helperText="Inside the root, with fields such as {stem}, {folder}, {rate}. Empty keeps each source's folder."
            onChange={({ target }) =>
              onChange({ ...spec, into: { ...spec.into, folder: target.value === '' ? null : target.value } })
            }
            slotProps={{ htmlInput: { className: 'mono', spellCheck: false }, inputLabel: { shrink: true } }}
          />
        </Box>
      )}
      {several && (
        <FormControlLabel
          sx={{ mt: 1, ml: 0, gap: 1 }}
          control={<Switch size="small" checked={spec.join} onChange={(_, join) => onChange({ ...spec, join })} />}
          label={<span style={{ fontSize: 13.5 }}>Join end to end under one numbering</span>}
        />
      )}
    </Card>
  );
}
