import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { wishMeant } from '../../state/view.ts';

/** What of a receipt is to be done for the sources that are selected here. */
export function MeantNote() {
  const dispatch = useAppDispatch();
  const meant = useAppSelector((state) => state.view.meant);
  if (!meant) return null;
  return (
    <Box role="status" sx={{ display: 'flex', gap: 1, alignItems: 'center', mb: 1 }}>
      <Typography noWrap sx={{ fontSize: 14, minWidth: 0 }} title={meant.words}>
        <b>Select the sources for this:</b> {meant.words}
      </Typography>
      <Button size="small" sx={{ flex: 'none' }} onClick={() => dispatch(wishMeant(null))}>
        Dismiss
      </Button>
    </Box>
  );
}
