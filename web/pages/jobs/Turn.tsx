import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import type { JobPriority } from '@shale/contract';
import { priorityWords } from './jobWords.ts';

/** When a job or a batch has its turn among others. */
export function Turn({ value, onChoose }: { value: JobPriority; onChoose: (priority: JobPriority) => void }) {
  return (
    <TextField
      select
      size="small"
      label="Turn"
      value={value}
      onChange={({ target }) => onChoose(target.value as JobPriority)}
      sx={{ minWidth: 130 }}
    >
      {Object.entries(priorityWords).map(([priority, words]) => (
        <MenuItem key={priority} value={priority}>
          {words}
        </MenuItem>
      ))}
    </TextField>
  );
}
