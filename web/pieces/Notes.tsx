import Box from '@mui/material/Box';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import type { ReactNode } from 'react';
import type { Problem } from '@shale/core';
import { useHealthQuery } from '../api/api.ts';
import { Mark } from './State.tsx';
import { plural } from './words.ts';

interface NoteProps {
  problem: Problem;
  action?: ReactNode;
}

/** A problem: the fact, then the way out. One that the head of the page tells already, being Shale's own, is only waited for here. */
export function ProblemNote(props: NoteProps) {
  const { data: health } = useHealthQuery();
  const isTold = props.problem.code === 'database-away' && health?.ready === false;
  return isTold ? (
    <Typography role="status" sx={{ color: 'text.secondary' }}>
      Waiting for the database
    </Typography>
  ) : (
    <ProblemBox {...props} />
  );
}

/** The same, told in any case. */
export function ProblemBox({ problem, action }: NoteProps) {
  const { tokens } = useTheme();
  return (
    <Box
      role="alert"
      sx={{
        display: 'flex',
        // Where there is little room what can be pressed goes below the words.
        flexWrap: 'wrap',
        gap: 1.25,
        p: '10px 14px',
        borderRadius: '6px',
        bgcolor: tokens.faultWash,
        border: 1,
        borderColor: tokens.fault,
      }}
    >
      <Box sx={{ pt: '4px' }}>
        <Mark severity="fault" />
      </Box>
      <Box sx={{ flex: '1 1 280px', minWidth: 0, overflowWrap: 'anywhere' }}>
        <Typography sx={{ fontWeight: 600 }}>{problem.fact}</Typography>
        <Typography variant="body2">{problem.wayOut}</Typography>
      </Box>
      {action && <Box sx={{ ml: 'auto', alignSelf: 'center' }}>{action}</Box>}
    </Box>
  );
}

/** What is wrong with a list that was brought in: the first lines of it, and how many more are like them. */
export function ListProblems({ problems, most }: { problems: readonly Problem[]; most: number }) {
  return (
    <>
      {problems.slice(0, most).map((problem) => (
        <ProblemNote key={problem.fact} problem={problem} />
      ))}
      {problems.length > most && (
        <Typography sx={{ fontSize: 13 }}>and {plural(problems.length - most, 'more line')} like these.</Typography>
      )}
    </>
  );
}

/** A page with nothing to show says what to do first. */
export function EmptyPage({ title, children, action }: { title: string; children: ReactNode; action?: ReactNode }) {
  return (
    <Box sx={{ display: 'grid', placeItems: 'center', height: '100%', p: 4 }}>
      <Box sx={{ maxWidth: 460, textAlign: 'center' }}>
        <Box component="svg" viewBox="0 0 120 60" sx={{ width: 120, mb: 2, color: 'text.secondary' }} aria-hidden>
          <path d="M4 16Q34 4 60 13T116 13" fill="none" stroke="currentColor" strokeWidth="2" />
          <path d="M4 32Q38 26 60 31T116 29" fill="none" stroke="currentColor" strokeWidth="2" opacity=".7" />
          <path
            d="M4 47Q38 44 60 48T116 47"
            fill="none"
            stroke="currentColor"
            strokeWidth="2"
            opacity=".45"
            strokeDasharray="9 7"
          />
        </Box>
        <Typography variant="h1" sx={{ mb: 1 }}>
          {title}
        </Typography>
        <Typography sx={{ color: 'text.secondary', mb: 2.5 }}>{children}</Typography>
        {action}
      </Box>
    </Box>
  );
}

/** Waiting for the server, at the top edge so that nothing moves when the answer comes. */
/**
 * @param share how much of it is done, 0 to 1; absent where that is not known
 * @param far the same in words, which change too often to be read out
 */
export function Loading({ what, share, far }: { what: string; share?: number; far?: string }) {
  return (
    <Box sx={{ p: 3 }}>
      <LinearProgress
        aria-label={what}
        {...(share === undefined ? {} : { variant: 'determinate', value: Math.min(100, share * 100) })}
        sx={{ height: 3, mb: 1.5 }}
      />
      <Typography role="status" sx={{ color: 'text.secondary' }}>
        {what}
      </Typography>
      {far && <Typography sx={{ color: 'text.secondary' }}>{far}</Typography>}
    </Box>
  );
}
