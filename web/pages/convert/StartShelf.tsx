import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { startingPoints, type Spec } from '@shale/core';
import { useSpecsQuery } from '../../api/api.ts';
import { Chip } from '../../pieces/Chip.tsx';

/** Specs of one's own that stand on the shelf at the most: the others are under Saved specs. */
const mostOwn = 4;

/** What people mostly want, to begin with; then specs of one's own. */
export function StartShelf({ start, onTake }: { start: Spec; onTake: (spec: Spec) => void }) {
  const { data: own = [] } = useSpecsQuery();
  return (
    <Box
      role="group"
      aria-label="Begin with"
      sx={{ display: 'flex', gap: 0.75, alignItems: 'center', overflowX: 'auto', minHeight: 34, py: '2px' }}
    >
      <Typography sx={{ fontSize: 13, color: 'text.secondary', whiteSpace: 'nowrap', mr: 0.5 }}>Begin with</Typography>
      {own.slice(0, mostOwn).map(({ id, name, spec }) => (
        <Chip key={id} on={false} onClick={() => onTake(spec)}>
          {name}
        </Chip>
      ))}
      {Object.entries(startingPoints).map(([name, { words, note, of }]) => (
        <Chip key={name} on={false} title={note} onClick={() => onTake(of(start))}>
          {words}
        </Chip>
      ))}
    </Box>
  );
}
