import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import type { ReactNode } from 'react';
import type { Severity } from '@shale/core';

/** A ring, a diamond or a triangle: well, doubtful, wrong. Shape and word tell it, colour only helps. */
export function Mark({ severity }: { severity: Severity }) {
  const { tokens } = useTheme();
  const shapes = {
    note: <circle cx="5" cy="5" r="4" fill="none" stroke={tokens.act} strokeWidth="2" />,
    doubt: <path d="M5 -0.4L10.4 5L5 10.4L-0.4 5Z" fill={tokens.doubt} />,
    fault: <path d="M5 0L10 10H0Z" fill={tokens.fault} />,
  };
  return (
    <Box component="svg" viewBox="-1 -1 12 12" sx={{ width: 12, height: 12, flex: 'none' }} aria-hidden>
      {shapes[severity]}
    </Box>
  );
}

/** A mark and the words for it; `clips` keeps them on one line. */
export function State({ severity, clips, children }: { severity: Severity; clips?: boolean; children: ReactNode }) {
  const { tokens } = useTheme();
  const colour = { note: tokens.act, doubt: tokens.doubt, fault: tokens.fault }[severity];
  return (
    <Box
      component="span"
      sx={{
        display: 'inline-flex',
        maxWidth: '100%',
        gap: 0.75,
        alignItems: 'center',
        fontWeight: 600,
        fontSize: 13,
        color: colour,
      }}
    >
      <Mark severity={severity} />
      {clips ? (
        <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
          {children}
        </Box>
      ) : (
        children
      )}
    </Box>
  );
}
