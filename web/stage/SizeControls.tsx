import AddIcon from '@mui/icons-material/Add';
import RemoveIcon from '@mui/icons-material/Remove';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Tooltip from '@mui/material/Tooltip';
import { mono } from '../theme/theme.ts';
import type { useZoom } from './useZoom.ts';

/** How large the picture is shown. */
export function SizeControls({ zoom }: { zoom: ReturnType<typeof useZoom> }) {
  return (
    <Box sx={{ display: 'flex', alignItems: 'center' }}>
      <Tooltip title="Zoom out (-)">
        <IconButton size="small" aria-label="Zoom out" onClick={zoom.out}>
          <RemoveIcon fontSize="small" />
        </IconButton>
      </Tooltip>
      <Tooltip describeChild title={zoom.isWhole ? 'Actual pixels (1)' : 'Fit (0)'}>
        <Button
          size="small"
          aria-label={`Size: ${zoom.words}`}
          onClick={zoom.isWhole ? zoom.toPixels : zoom.toWhole}
          sx={{ minWidth: 58, px: 0.5, fontFamily: mono, fontSize: 12.5 }}
        >
          {zoom.words}
        </Button>
      </Tooltip>
      <Tooltip title="Zoom in (+)">
        <IconButton size="small" aria-label="Zoom in" onClick={zoom.in}>
          <AddIcon fontSize="small" />
        </IconButton>
      </Tooltip>
    </Box>
  );
}
