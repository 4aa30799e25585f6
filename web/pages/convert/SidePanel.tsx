import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import type { ReactNode } from 'react';

interface Props<T extends string> {
  label: string;
  tabs: readonly (readonly [value: T, words: string])[];
  value: T;
  onChoose: (value: T) => void;
  /** What stands beside the tabs. */
  aside?: ReactNode;
  /** Whether what is open scrolls by itself; else what is longer than its place does. */
  fills: boolean;
  /** What stands above what is open. */
  top?: ReactNode;
  children: ReactNode;
}

/** What is told of a source beside its stage, one thing at a time, in one place that scrolls. */
export function SidePanel<T extends string>({ label, tabs, value, onChoose, aside, fills, top, children }: Props<T>) {
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(0, 1fr)',
        gridTemplateRows: 'auto minmax(0, 1fr)',
        bgcolor: 'background.paper',
        border: 1,
        borderColor: 'divider',
        borderRadius: '6px',
        minHeight: 0,
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', borderBottom: 1, borderColor: 'divider', pr: 1 }}>
        <Tabs
          value={value}
          onChange={(_, next: T) => onChoose(next)}
          variant="scrollable"
          scrollButtons={false}
          aria-label={label}
          sx={{ minHeight: 36, flex: 1, '& .MuiTab-root': { minHeight: 36, minWidth: 0, px: 1.5, fontSize: 13 } }}
        >
          {tabs.map(([one, words]) => (
            <Tab key={one} value={one} label={words} />
          ))}
        </Tabs>
        {aside}
      </Box>
      <Box
        sx={{
          p: 1.25,
          minHeight: 0,
          display: 'grid',
          gridTemplateColumns: 'minmax(0, 1fr)',
          overflowY: fills ? 'hidden' : 'auto',
          alignContent: fills ? 'stretch' : 'start',
          gridTemplateRows: fills ? 'auto minmax(0, 1fr)' : undefined,
          // A sheet in a sheet needs no edge of its own.
          '& > section': { border: 0, p: 0 },
        }}
      >
        <Box sx={{ display: 'grid', gap: 1, '&:not(:empty)': { pb: 1 } }}>{top}</Box>
        {children}
      </Box>
    </Box>
  );
}
