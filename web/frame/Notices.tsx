import Alert from '@mui/material/Alert';
import Button from '@mui/material/Button';
import Snackbar from '@mui/material/Snackbar';
import { useNavigate } from 'react-router';
import { Mark } from '../pieces/State.tsx';
import { noticeRead } from '../state/view.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

/** How long a message stands, in milliseconds. */
const stands = 12_000;

/** What came to pass by itself, one message at a time: a source that was being written has come to rest. */
export function Notices() {
  const [notice] = useAppSelector((state) => state.view.notices);
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  if (!notice) return null;
  const read = () => dispatch(noticeRead());
  return (
    <Snackbar
      key={notice.source + notice.sentence}
      open
      autoHideDuration={stands}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'center' }}
      onClose={(_, reason) => reason !== 'clickaway' && read()}
    >
      <Alert
        role="status"
        severity={notice.severity === 'note' ? 'success' : 'warning'}
        icon={<Mark severity={notice.severity} />}
        variant="outlined"
        onClose={read}
        action={
          <>
            <Button
              size="small"
              onClick={() => {
                read();
                void navigate(`/inspect/${notice.source}`);
              }}
            >
              Inspect
            </Button>
            <Button size="small" onClick={read}>
              Close
            </Button>
          </>
        }
        sx={{
          bgcolor: 'background.paper',
          color: 'text.primary',
          maxWidth: 560,
          alignItems: 'center',
          '& .MuiAlert-action': { pt: 0 },
        }}
      >
        {notice.sentence}
      </Alert>
    </Snackbar>
  );
}
