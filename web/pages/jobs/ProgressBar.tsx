import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';

/** How much of a work is done. */
export function ProgressBar({ done, of, hasTrouble }: { done: number; of: number; hasTrouble: boolean }) {
  const { tokens } = useTheme();
  return (
    <Box
      role="progressbar"
      aria-valuemin={0}
      aria-valuemax={of}
      aria-valuenow={done}
      aria-label="Progress"
      sx={{ height: 6, borderRadius: 3, bgcolor: 'divider', overflow: 'hidden', my: 1.25 }}
    >
      <Box
        sx={{
          height: '100%',
          bgcolor: hasTrouble ? tokens.doubt : tokens.act,
          transformOrigin: 'left',
          transition: 'transform .2s linear',
        }}
        style={{ transform: `scaleX(${done / Math.max(1, of)})` }}
      />
    </Box>
  );
}
