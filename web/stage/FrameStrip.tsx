import type { ListedSource } from '@shale/contract';
import { useAppDispatch } from '../state/store.ts';
import { CoverageStrip } from '../strip/CoverageStrip.tsx';
import type { StripModel } from '../strip/model.ts';
import { useStageFrame } from './useStageFrame.ts';
import { frameChosen } from './state.ts';

/** The strip of a source as the stage's scrubber. A part of its own, so that its page stands still while it plays. */
export function FrameStrip({ source, model, height }: { source: ListedSource; model: StripModel; height: number }) {
  const dispatch = useAppDispatch();
  const at = useStageFrame(source);
  return (
    <CoverageStrip
      model={model}
      height={height}
      at={at}
      onSeek={(frame) => dispatch(frameChosen({ source: source.id, frame }))}
    />
  );
}
