import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { LargeCard, LeftCard } from './SizeCards.tsx';
import { CountCard, MomentCard, RatesCard } from './TimeCards.tsx';

const column = { display: 'grid', gap: 2, minWidth: 0 } as const;

/** Sums of the trade, each with its way: moments, rates, lengths, sizes. */
export function ReckonerPage() {
  return (
    <Box sx={{ height: { xs: 'auto', md: '100%' }, overflowY: 'auto', p: { xs: 1.5, md: '20px 24px 28px' } }}>
      <Typography variant="h1" sx={{ fontSize: 22 }}>
        Reckoner
      </Typography>
      <Typography sx={{ color: 'text.secondary', mb: 2 }}>
        Exact fractions throughout: nothing is rounded on the way, and every answer shows its working.
      </Typography>
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '1fr 1fr' },
          gap: 2,
          alignItems: 'start',
        }}
      >
        <Box sx={column}>
          <MomentCard />
          <CountCard />
          <LeftCard />
        </Box>
        <Box sx={column}>
          <RatesCard />
          <LargeCard />
        </Box>
      </Box>
    </Box>
  );
}
