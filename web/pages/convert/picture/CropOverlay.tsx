import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { useState, type PointerEvent } from 'react';
import type { Box as PixelBox } from '@shale/core';
import type { Place } from '../../../stage/place.ts';

interface Props {
  /** Where the picture stands on the stage. */
  place: Place;
  /** The picture's own size. */
  size: { width: number; height: number };
  crop: PixelBox | null;
  onCrop: (box: PixelBox) => void;
}

/** A box drawn over the picture by dragging, in whole pixels of the picture; what is cut off is dimmed. */
export function CropOverlay({ place, size, crop, onCrop }: Props) {
  const { tokens } = useTheme();
  const [from, setFrom] = useState<{ x: number; y: number } | null>(null);
  const [drawn, setDrawn] = useState<PixelBox | null>(null);
  const box = drawn ?? crop ?? { left: 0, top: 0, ...size };
  const [across, down] = [place.width / size.width, place.height / size.height];

  const pixel = ({ clientX, clientY, currentTarget }: PointerEvent) => {
    const { left, top } = currentTarget.getBoundingClientRect();
    const within = (value: number, most: number) => Math.min(most - 1, Math.max(0, Math.floor(value)));
    return { x: within((clientX - left) / across, size.width), y: within((clientY - top) / down, size.height) };
  };
  const spanning = (a: { x: number; y: number }, b: { x: number; y: number }): PixelBox => ({
    left: Math.min(a.x, b.x),
    top: Math.min(a.y, b.y),
    width: Math.abs(a.x - b.x) + 1,
    height: Math.abs(a.y - b.y) + 1,
  });
  return (
    <Box
      data-testid="crop"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        setFrom(pixel(event));
      }}
      onPointerMove={(event) => from && setDrawn(spanning(from, pixel(event)))}
      onPointerUp={() => {
        // A press without a drag is no box.
        if (drawn && drawn.width > 1 && drawn.height > 1) onCrop(drawn);
        setFrom(null);
        setDrawn(null);
      }}
      onPointerCancel={() => {
        setFrom(null);
        setDrawn(null);
      }}
      sx={{
        position: 'absolute',
        left: place.x,
        top: place.y,
        width: place.width,
        height: place.height,
        cursor: 'crosshair',
        overflow: 'hidden',
        touchAction: 'none',
      }}
    >
      <Box
        sx={{
          position: 'absolute',
          left: box.left * across,
          top: box.top * down,
          width: box.width * across,
          height: box.height * down,
          outline: `2px solid ${tokens.act}`,
          boxShadow: '0 0 0 9999px rgba(0, 0, 0, .55), inset 0 0 0 1px rgba(255, 255, 255, .7)',
          pointerEvents: 'none',
        }}
      />
    </Box>
  );
}
