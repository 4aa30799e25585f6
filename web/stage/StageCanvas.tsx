import Box from '@mui/material/Box';
import { useLayoutEffect, useRef } from 'react';
import { drawBoth, type DrawnPicture, type Ground, type Sharing } from './draw.ts';
import type { Pane } from './panes.ts';
import type { Held } from './pictureCache.ts';
import type { Extent } from './place.ts';

interface Props {
  label: string;
  size: Extent;
  /** Says which frame is drawn: the same one in another size stays until the new picture is here. */
  what: string;
  panes: readonly Pane[];
  /** What is drawn for the first: its own picture, or its difference to the second. */
  held: Held | undefined;
  ground: Ground;
  isAlpha: boolean;
  sharing: Sharing;
}

/** The canvas of the stage. */
export function StageCanvas({ label, size, what, panes, held, ground, isAlpha, sharing }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const drawn = useRef('');
  useLayoutEffect(() => {
    if (held?.state === 'loading' && drawn.current === what) return;
    drawn.current = held?.state === 'ready' ? what : '';
    const element = canvas.current!;
    const scale = window.devicePixelRatio;
    const [across, down] = [Math.round(size.width * scale), Math.round(size.height * scale)];
    if (element.width !== across || element.height !== down) [element.width, element.height] = [across, down];
    const context = element.getContext('2d')!;
    context.setTransform(scale, 0, 0, scale, 0, 0);
    context.clearRect(0, 0, size.width, size.height);
    const drawnOf = (pane: Pane | undefined, of: Held | undefined): DrawnPicture | null =>
      pane && of?.state === 'ready' ? { ...pane, picture: of.picture, isAlpha, ground } : null;
    drawBoth(context, drawnOf(panes[0], held), drawnOf(panes[1], panes[1]?.side.held), sharing);
  });
  return (
    <Box
      component="canvas"
      ref={canvas}
      role="img"
      aria-label={label}
      sx={{ position: 'absolute', inset: 0, width: '100%', height: '100%' }}
    />
  );
}
