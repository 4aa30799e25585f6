import Box from '@mui/material/Box';

/** Labels and texts, a line each. */
export function FactList({ rows, mono = false }: { rows: readonly [string, string][]; mono?: boolean }) {
  return (
    <Box
      component="dl"
      sx={{
        display: 'grid',
        gridTemplateColumns: '76px minmax(0, 1fr)',
        columnGap: 1.25,
        rowGap: 0.5,
        m: 0,
        fontSize: 13.5,
        '& dt': { color: 'text.secondary' },
        '& dd': { m: 0, overflowWrap: 'anywhere' },
      }}
    >
      {rows.map(([label, text]) => [
        <dt key={`${label}-t`}>{label}</dt>,
        <dd key={label} className={mono ? 'mono' : undefined}>
          {text}
        </dd>,
      ])}
    </Box>
  );
}
