import Box from '@mui/material/Box';
import { useAppDispatch } from '../state/store.ts';
import { CoverageStrip } from '../strip/CoverageStrip.tsx';
import type { StripModel } from '../strip/model.ts';
import type { StageSource } from './frames.ts';
import { useStageFrame } from './useStageFrame.ts';
import { frameChosen } from './state.ts';

/** The strip of a source as the stage's scrubber. A part of its own, so that its page stands still while it plays. */
export function FrameStrip({ source, model, height }: { source: StageSource; model: StripModel; height: number }) {
  const dispatch = useAppDispatch();
  const at = useStageFrame(source);
  return (
    <>
      {model.cuts && model.cuts.length > 1 && <ShotNames model={model} cuts={model.cuts} />}
      <CoverageStrip
        model={model}
        height={height}
        at={at}
        wordsOf={source.row?.words}
        onSeek={(frame) => dispatch(frameChosen({ source: source.id, frame }))}
      />
    </>
  );
}

/** What each shot is called, above where it lies. */
function ShotNames({ model: { first, last }, cuts }: { model: StripModel; cuts: NonNullable<StripModel['cuts']> }) {
  const share = (place: number) => `${((place - first) * 100) / (last - first + 1)}%`;
  return (
    <Box data-testid="shot-names" sx={{ position: 'relative', height: 16 }}>
      {cuts.map(({ place, name }, at) => (
        <Box
          key={place}
          className="mono"
          title={name}
          sx={{
            position: 'absolute',
            left: share(place),
            width: share(first + (cuts[at + 1]?.place ?? last + 1) - place),
            pr: 0.75,
            fontSize: 11,
            lineHeight: '16px',
            color: 'text.secondary',
            overflow: 'hidden',
            textOverflow: 'ellipsis',
            whiteSpace: 'nowrap',
          }}
        >
          {name}
        </Box>
      ))}
    </Box>
  );
}
