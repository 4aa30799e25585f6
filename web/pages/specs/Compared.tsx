import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import type { ReactNode } from 'react';

/** What one thing of a kind says, by rows with the same labels as the others'. */
export interface Told {
  name: string;
  rows: readonly (readonly [label: string, words: string])[];
}

/** One thing's rows, or two beside each other with what differs marked. */
export function Compared({ one, other }: { one: Told; other?: Told }) {
  const { tokens } = useTheme();
  const labels = [...new Set([...one.rows, ...(other?.rows ?? [])].map(([label]) => label))];
  const wordsIn = (told: Told, label: string) => told.rows.find(([own]) => own === label)?.[1] ?? '';
  const cell = (key: string, content: ReactNode, differs: boolean) => (
    <Box
      key={key}
      component="td"
      sx={{
        p: '7px 12px',
        verticalAlign: 'top',
        borderBottom: 1,
        borderColor: 'divider',
        bgcolor: differs ? tokens.doubtWash : undefined,
        overflowWrap: 'anywhere',
      }}
    >
      {content === '' ? <span style={{ color: tokens.soft }}>no rules</span> : content}
    </Box>
  );
  return (
    <Box
      component="table"
      sx={{
        borderCollapse: 'collapse',
        width: '100%',
        maxWidth: other ? undefined : 760,
        fontSize: 14,
        tableLayout: 'fixed',
      }}
    >
      <colgroup>
        <col style={{ width: 190 }} />
        <col />
        {other && <col />}
      </colgroup>
      {other && (
        <thead>
          <tr>
            {['', one.name, other.name].map((name, at) => (
              <Box
                component="th"
                key={at}
                sx={{ textAlign: 'left', p: '7px 12px', borderBottom: 1, borderColor: 'divider', fontWeight: 650 }}
              >
                {name}
              </Box>
            ))}
          </tr>
        </thead>
      )}
      <tbody>
        {labels.map((label) => {
          const words = wordsIn(one, label);
          const others = other && wordsIn(other, label);
          const differs = others !== undefined && others !== words;
          return (
            <tr key={label} data-differs={differs || undefined}>
              <Box
                component="th"
                scope="row"
                sx={{
                  textAlign: 'left',
                  fontWeight: 400,
                  color: 'text.secondary',
                  p: '7px 12px 7px 0',
                  verticalAlign: 'top',
                  borderBottom: 1,
                  borderColor: 'divider',
                }}
              >
                {label}
              </Box>
              {cell('one', words, differs)}
              {others !== undefined && cell('other', others, differs)}
            </tr>
          );
        })}
      </tbody>
    </Box>
  );
}
