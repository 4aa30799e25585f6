import Box from '@mui/material/Box';
import type { KeyboardEvent, PointerEvent } from 'react';

interface Props {
  /** 0 to 1 across the stage. */
  at: number;
  onMove: (at: number) => void;
}

/** The line between two pictures: dragged, or moved by the arrow keys. */
export function WipeLine({ at, onMove }: Props) {
  const to = (value: number) => onMove(Math.min(1, Math.max(0, value)));
  const follow = (event: PointerEvent<HTMLElement>) => {
    const stage = event.currentTarget.parentElement!.getBoundingClientRect();
    to((event.clientX - stage.left) / stage.width);
  };
  const onKey = (event: KeyboardEvent) => {
    const step = { ArrowLeft: -0.02, ArrowRight: 0.02, Home: -1, End: 1 }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    to(at + step);
  };
  return (
    <Box
      role="slider"
      aria-label="Wipe"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(at * 100)}
      tabIndex={0}
      onPointerDown={(event: PointerEvent<HTMLElement>) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event: PointerEvent<HTMLElement>) => {
        if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
        event.stopPropagation();
        follow(event);
      }}
      onPointerUp={(event: PointerEvent<HTMLElement>) => event.stopPropagation()}
      onKeyDown={onKey}
      sx={{
        position: 'absolute',
        top: 0,
        bottom: 0,
        width: 17,
        ml: '-8.5px',
        cursor: 'ew-resize',
        touchAction: 'none',
        '&::before': {
          content: '""',
          position: 'absolute',
          top: 0,
          bottom: 0,
          left: 7.5,
          width: 2,
          bgcolor: '#fff',
          boxShadow: '0 0 0 1px rgba(20,24,26,.55)',
        },
      }}
      style={{ left: `${at * 100}%` }}
    />
  );
}
