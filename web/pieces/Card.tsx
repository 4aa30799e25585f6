import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import type { SxProps } from '@mui/material/styles';
import type { ReactNode } from 'react';

/** A sheet with a heading. */
export function Card({
  title,
  aside,
  children,
  sx,
}: {
  title: ReactNode;
  aside?: ReactNode;
  children: ReactNode;
  sx?: SxProps;
}) {
  return (
    <Box
      component="section"
      sx={{
        bgcolor: 'background.paper',
        border: 1,
        borderColor: 'divider',
        borderRadius: '6px',
        p: '12px 14px',
        ...sx,
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1, mb: 1 }}>
        <Typography variant="h2">{title}</Typography>
        {aside && <Box sx={{ ml: 'auto', fontSize: 12.5, color: 'text.secondary' }}>{aside}</Box>}
      </Box>
      {children}
    </Box>
  );
}
