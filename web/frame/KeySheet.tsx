import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';
import { keySheet } from './keys.ts';

/** All keys, by where they act. */
export function KeySheet({ onClose }: { onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="key-sheet">
      <DialogTitle id="key-sheet">Keys</DialogTitle>
      <DialogContent
        tabIndex={0}
        sx={{
          display: 'grid',
          gridTemplateColumns: 'repeat(auto-fit, minmax(300px, 1fr))',
          gap: 3,
          alignItems: 'start',
        }}
      >
        {keySheet.map(({ where, keys }) => (
          <Box key={where}>
            <Typography variant="h2" component="h3" sx={{ mb: 0.75 }}>
              {where}
            </Typography>
            <Box
              component="dl"
              sx={{ m: 0, display: 'grid', gridTemplateColumns: '170px 1fr', gap: '4px 12px', fontSize: 13.5 }}
            >
              {keys.map(([key, does]) => (
                <Box key={key} sx={{ display: 'contents' }}>
                  <Box component="dt" className="mono" sx={{ fontWeight: 600 }}>
                    {key}
                  </Box>
                  <Box component="dd" sx={{ m: 0 }}>
                    {does}
                  </Box>
                </Box>
              ))}
            </Box>
          </Box>
        ))}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose} autoFocus>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}
