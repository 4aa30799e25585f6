import Alert from '@mui/material/Alert';
import Button from '@mui/material/Button';
import Snackbar from '@mui/material/Snackbar';
import { useNavigate } from 'react-router';
import { Mark } from '../pieces/State.tsx';
import { noticeRead } from '../state/view.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

/** How long a message stands, in milliseconds. */
const stands = 12_000;

/** What came to pass by itself, one message at a time: a source that was being written has come to rest, a job ended. */
export function Notices() {
  const [notice] = useAppSelector((state) => state.view.notices);
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  if (!notice) return null;
  const read = () => dispatch(noticeRead());
  return (
    <Snackbar
      key={notice.about + notice.sentence}
      open
      autoHideDuration={stands}
      anchorOrigin={{ vertical: 'top', horizontal: 'right' }}
      onClose={(_, reason) => reason !== 'clickaway' && read()}
      sx={{
        // In the head of the page, where it covers nothing that is worked with; below where the head has no room.
        '&.MuiSnackbar-root': { top: 6, right: 170 },
        '@media (max-width: 1240px)': { '&.MuiSnackbar-root': { top: 'auto', bottom: 12, right: 24 } },
      }}
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
                void navigate(notice.kind === 'job' ? '/jobs' : `/inspect/${notice.about}`);
              }}
            >
              {notice.kind === 'job' ? 'Jobs' : 'Inspect'}
            </Button>
            <Button size="small" onClick={read}>
              Close
            </Button>
          </>
        }
        sx={{
          bgcolor: 'background.paper',
          color: 'text.primary',
          maxWidth: 440,
          height: 40,
          py: 0,
          pl: 1.5,
          alignItems: 'center',
          '& .MuiAlert-message': { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap', fontSize: 13 },
          '& .MuiAlert-icon': { mr: 1 },
          '& .MuiAlert-action': { pt: 0, pl: 1, mr: -1 },
          '& .MuiButton-root': { px: 1, minWidth: 0 },
        }}
      >
        <span title={notice.sentence}>{notice.sentence}</span>
      </Alert>
    </Snackbar>
  );
}
