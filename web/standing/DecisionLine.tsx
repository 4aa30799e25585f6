import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { Decision } from '@shale/contract';
import { Mark } from '../pieces/State.tsx';
import { severityOf } from './orderWords.ts';

/** One decision: what of, what, and when. */
export function DecisionLine({
  decision: { kind, source, words },
  when,
  action,
}: {
  decision: Pick<Decision, 'kind' | 'source' | 'words'>;
  when?: string;
  action?: ReactNode;
}) {
  return (
    <Box
      component="li"
      data-testid="decision"
      sx={{
        display: 'grid',
        gridTemplateColumns: `14px minmax(0, 1.3fr) minmax(0, 1.2fr)${when === undefined ? '' : ' 84px 160px'}`,
        gap: 1.25,
        alignItems: 'center',
        minHeight: 30,
        fontSize: 13.5,
      }}
    >
      <Mark severity={severityOf(kind, words)} />
      {source ? (
        <Typography
          component={Link}
          to={`/inspect/${source.id}`}
          className="mono"
          noWrap
          sx={{ fontSize: 13, color: 'text.primary' }}
          title={`${source.folder}/${source.name}`}
        >
          {source.folder}/{source.name}
        </Typography>
      ) : (
        <span />
      )}
      <Typography sx={{ fontSize: 13.5 }}>{words}</Typography>
      {when !== undefined && (
        <>
          <span>{action}</span>
          <Typography className="mono" sx={{ fontSize: 12.5, color: 'text.secondary', textAlign: 'right' }}>
            {when}
          </Typography>
        </>
      )}
    </Box>
  );
}
