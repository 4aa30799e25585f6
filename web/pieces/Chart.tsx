import Box from '@mui/material/Box';
import { lazy, Suspense } from 'react';
import type { ChartProps } from './DrawnChart.tsx';

// The chart library is a third of all that a page fetches: it comes with the first chart.
const DrawnChart = lazy(() => import('./DrawnChart.tsx'));

/** A chart in the colours of the scheme; its room is there before it is. */
export function Chart(props: ChartProps) {
  return (
    <Suspense fallback={<Box sx={{ height: props.height, width: '100%' }} />}>
      <DrawnChart {...props} />
    </Suspense>
  );
}
