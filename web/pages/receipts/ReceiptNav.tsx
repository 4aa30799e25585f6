import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { Link } from 'react-router';
import type { BatchView, ReceiptEntry } from '@shale/contract';
import { plural } from '../../pieces/words.ts';

/** A receipt in the list: of a job, or of a batch. */
export interface Entry {
  /** Below `/receipts/`. */
  to: string;
  name: string;
  what: string;
  /** ISO 8601. */
  at: string;
}

/** Receipts of jobs, and of batches that have any, the newest first. */
export function receiptEntries(receipts: readonly ReceiptEntry[], batches: readonly BatchView[]): Entry[] {
  const failed = (count: number) => (count > 0 ? `, ${count} failed` : '');
  const ofJobs = receipts.map((one) => ({
    to: one.job,
    name: one.into.folder || one.into.pattern,
    what: `${one.video ? `video, ${plural(one.video.frames, 'frame')}` : plural(one.written, 'frame')}${failed(one.failed.length)}`,
    at: one.finished,
  }));
  const ofBatches = batches
    .filter(({ states }) => (states.done ?? 0) + (states.incomplete ?? 0) > 0)
    .map((one) => ({
      to: `batch/${one.id}`,
      name: plural(one.sources, 'source'),
      what: `batch, ${plural(one.files.written, 'file')}${failed(one.files.failed)}`,
      at: one.finished ?? one.created,
    }));
  return [...ofJobs, ...ofBatches].sort((a, b) => Date.parse(b.at) - Date.parse(a.at));
}

/** The list of receipts. */
export function ReceiptNav({ entries, shown }: { entries: readonly Entry[]; shown: string }) {
  const { tokens } = useTheme();
  return (
    <Box
      component="nav"
      aria-label="Receipts"
      sx={{ p: '20px 12px 20px 24px', borderRight: 1, borderColor: 'divider', overflowY: 'auto' }}
    >
      <Typography variant="h2" sx={{ mb: 1 }}>
        Receipts
      </Typography>
      {entries.map(({ to, name, what, at }) => {
        const on = to === shown;
        return (
          <ButtonBase
            key={to}
            component={Link}
            to={`/receipts/${to}`}
            aria-current={on || undefined}
            sx={{
              display: 'block',
              p: '6px 8px',
              mb: 0.5,
              borderRadius: '4px',
              color: on ? tokens.act : 'text.primary',
              bgcolor: on ? tokens.actWash : 'transparent',
              '&:hover': { bgcolor: tokens.actWash },
              textAlign: 'left',
            }}
          >
            <Typography noWrap className="mono" sx={{ fontWeight: 600, fontSize: 13.5 }}>
              {name}
            </Typography>
            <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>
              {what}, {new Date(at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
            </Typography>
          </ButtonBase>
        );
      })}
    </Box>
  );
}
