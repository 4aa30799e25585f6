import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useEffect, useState } from 'react';
import type { Root } from '@shale/contract';
import { Mark } from '../../pieces/State.tsx';
import { plural, printAge, printBytes, printCount } from '../../pieces/words.ts';

/** The time, renewed often enough for "2 minutes ago". */
function useNow(): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 20_000);
    return () => clearInterval(timer);
  }, []);
  return now;
}

/** How a root stands: what a scan is at, or when it was scanned and how much it holds. */
export function ScanWords({ root, folder }: { root: Root; folder: string }) {
  const now = useNow();
  const { progress, scanning, scanned, files, bytes } = root;
  const at = progress?.folder ? ` in ${progress.folder}` : '';
  const words = scanning
    ? progress && progress.total > 0
      ? `reading headers${at}, ${printCount(progress.done)} of ${printCount(progress.total)}`
      : `scanning${at}${progress && progress.files > 0 ? `, ${plural(progress.files, 'file')} so far` : ''}`
    : `${scanned ? `scanned ${printAge(scanned, now)}` : 'not scanned yet'}: ${plural(files, 'file')}, ${printBytes(bytes)}`;
  return (
    <Typography noWrap sx={{ color: 'text.secondary' }} title={root.path}>
      {root.name}
      {folder && ` / ${folder}`}, {words}
    </Typography>
  );
}

/** What the last scan could not read, in one line that opens. */
export function ScanNotes({ root }: { root: Root }) {
  const { tokens } = useTheme();
  const [open, setOpen] = useState(false);
  // What an empty list says in its middle is not said above it too.
  const told = root.sources > 0 ? root.notes : root.notes.filter(({ code }) => code !== 'being-drawn');
  const notes = root.problem && root.sources > 0 ? [root.problem, ...told] : told;
  if (notes.length === 0) return <span />;
  const shown = open ? notes : notes.slice(0, 1);
  return (
    <Box
      role="note"
      sx={{
        mb: 1.5,
        p: '7px 12px',
        border: 1,
        borderColor: tokens.doubt,
        bgcolor: tokens.doubtWash,
        borderRadius: '6px',
        fontSize: 13.5,
        maxHeight: 160,
        overflowY: 'auto',
      }}
    >
      {shown.map(({ fact, wayOut }, index) => (
        <Box key={index} sx={{ display: 'flex', gap: 1, alignItems: 'baseline' }}>
          <Mark severity="doubt" />
          <Box sx={{ minWidth: 0, overflowWrap: 'anywhere' }}>
            <b>{fact}</b> {wayOut}
          </Box>
          {index === 0 && notes.length > 1 && (
            <Link
              component="button"
              onClick={() => setOpen(!open)}
              sx={{
                ml: 'auto',
                fontSize: 13.5,
                fontFamily: 'inherit',
                whiteSpace: 'nowrap',
                verticalAlign: 'baseline',
              }}
            >
              {open ? 'Less' : `${plural(notes.length - 1, 'more', 'more')}`}
            </Link>
          )}
        </Box>
      ))}
    </Box>
  );
}
