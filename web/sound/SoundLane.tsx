import Box from '@mui/material/Box';
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { printSeconds, sampleAt } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { stageSpan } from '../stage/frames.ts';
import { frameChosen } from '../stage/state.ts';
import { useStageFrame } from '../stage/useStageFrame.ts';
import { useAppDispatch } from '../state/store.ts';
import { Waveform } from './Waveform.tsx';
import type { SoundUnder } from './useUnder.ts';

interface Props {
  source: ListedSource;
  sound: SoundUnder;
  height?: number;
  /** Lets the sound be moved under the frames, by so many samples; absent where the lane scrubs. */
  onMove?: (samples: number) => void;
}

/** The sound under a source's strip, each sample below the frame that it is heard with. Dragged, it scrubs or is moved. */
export function SoundLane({ source, sound, height = 40, onMove }: Props) {
  const dispatch = useAppDispatch();
  const at = useStageFrame(source);
  const { first, last } = stageSpan(source);
  const { lane, facts } = sound;
  const begun = useRef<number | null>(null);
  const [moved, setMoved] = useState(0);
  const from = lane.start - moved;
  const to = from + sampleAt(lane, last - first + 1) - lane.start;
  const each = sampleAt(lane, 1) - lane.start;
  const shareOf = (event: PointerEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    return (event.clientX - box.left) / box.width;
  };
  const drag = (event: PointerEvent<HTMLElement>) => {
    const share = shareOf(event);
    if (!onMove) {
      const frame = Math.min(last, Math.max(first, first + Math.floor(share * (last - first + 1))));
      dispatch(frameChosen({ source: source.id, frame }));
      return;
    }
    const by = (share - begun.current!) * (to - from);
    // With Shift held it goes by samples, else by whole frames.
    setMoved(event.shiftKey ? Math.round(by) : sampleAt(lane, Math.round(by / each)) - lane.start);
  };
  const end = () => {
    if (begun.current !== null && onMove && moved !== 0) onMove(moved);
    begun.current = null;
    setMoved(0);
  };
  const onKey = (event: KeyboardEvent) => {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (step === undefined || !onMove) return;
    event.preventDefault();
    event.stopPropagation();
    onMove(event.shiftKey ? step : step * each);
  };
  const later = -(lane.start - moved);
  return (
    <Box
      role={onMove ? 'slider' : undefined}
      tabIndex={onMove ? 0 : undefined}
      aria-label={onMove ? 'Sound under the frames' : undefined}
      aria-valuenow={onMove ? later : undefined}
      aria-valuetext={
        onMove
          ? `begins ${printSeconds(Math.abs(later) / lane.rate)} ${later < 0 ? 'before' : 'after'} the first frame`
          : undefined
      }
      title={onMove ? 'Drag to move the sound by frames; with Shift, by samples' : undefined}
      data-testid="sound-lane"
      data-start={lane.start}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        begun.current = shareOf(event);
        if (!onMove) drag(event);
      }}
      onPointerMove={(event) => begun.current !== null && drag(event)}
      onPointerUp={end}
      onPointerCancel={end}
      onKeyDown={onKey}
      sx={{ cursor: onMove ? 'grab' : 'ew-resize', touchAction: 'none', minWidth: 0 }}
    >
      <Waveform
        source={sound.source}
        stream={sound.stream}
        facts={facts}
        from={from}
        to={to}
        height={height}
        together
        at={from + sampleAt(lane, at - first + 0.5) - lane.start}
      />
    </Box>
  );
}
