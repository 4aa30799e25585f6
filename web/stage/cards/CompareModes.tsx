import Box from '@mui/material/Box';
import Slider from '@mui/material/Slider';
import { Segments } from '../../pieces/Segments.tsx';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { mono } from '../../theme/theme.ts';
import { stageSet, type CompareMode } from '../state.ts';

const modes: readonly (readonly [CompareMode, string])[] = [
  ['wipe', 'Wipe'],
  ['side', 'Side by side'],
  ['difference', 'Difference'],
  ['blink', 'Blink'],
];

/** How two sources are shown together; for their difference, what it is multiplied by. */
export function CompareModes() {
  const dispatch = useAppDispatch();
  const { mode, gain } = useAppSelector(({ stage }) => stage);
  return (
    <Box sx={{ display: 'flex', flexWrap: 'wrap', alignItems: 'center', gap: 1, minHeight: 32 }}>
      <Segments label="Compared by" value={mode} options={modes} onChoose={(mode) => dispatch(stageSet({ mode }))} />
      {mode === 'difference' && (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, flex: 1 }}>
          <Box component="span" sx={{ fontSize: 13, color: 'text.secondary' }}>
            Gain
          </Box>
          <Slider
            size="small"
            aria-label="Gain"
            value={Math.log2(gain)}
            min={0}
            max={10}
            step={1}
            getAriaValueText={() => `${gain} times`}
            onChange={(_, power) => dispatch(stageSet({ gain: 2 ** power }))}
            sx={{ minWidth: 70, flex: 1 }}
          />
          <Box component="span" sx={{ fontFamily: mono, fontSize: 12.5, minWidth: 44 }}>
            × {gain}
          </Box>
        </Box>
      )}
    </Box>
  );
}
