import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import type { Item } from './shelves.ts';

/** Chooses what an item is compared with: another of its kind. */
export function CompareWith({
  item,
  items,
  value,
  onChoose,
}: {
  item: Item;
  items: readonly Item[];
  value: string;
  onChoose: (id: string) => void;
}) {
  const others = items.filter(({ kind, id }) => kind === item.kind && id !== item.id);
  return (
    <TextField
      select
      size="small"
      value={value}
      disabled={others.length === 0}
      onChange={({ target }) => onChoose(target.value)}
      slotProps={{ select: { displayEmpty: true }, htmlInput: { 'aria-label': 'Compare with' } }}
      sx={{ minWidth: 190, '& .MuiInputBase-input': { py: '7px', fontSize: 14 } }}
    >
      <MenuItem value="">Compare with...</MenuItem>
      {others.map(({ id, name }) => (
        <MenuItem key={id} value={id}>
          {name}
        </MenuItem>
      ))}
    </TextField>
  );
}
