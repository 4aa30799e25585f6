import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { useEffect, useMemo, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import type { Marker, MarkerColour } from '@shale/core';
import { useMarkerColour } from '../pieces/markers.tsx';
import { useSize } from '../pieces/useSize.ts';
import type { Tokens } from '../theme/tokens.ts';
import { columnsOf, frameUnder, isPresent, stripWords, type Column, type StripModel } from './model.ts';

interface Props {
  model: StripModel;
  /** Pixels. */
  height?: number;
  /** The frame that is shown, marked by a pointer. */
  at?: number;
  /** Makes the strip a scrubber. */
  onSeek?: (frame: number) => void;
  label?: string;
  /** What a frame is called, for those who do not see it. */
  wordsOf?: (frame: number) => string;
}

/** A source as one bar of cells, a core sample of its folder: the shade of a cell is its frame's weight in bytes. */
export function CoverageStrip({ model, height = 24, at, onSeek, label, wordsOf }: Props) {
  const { tokens } = useTheme();
  const canvas = useRef<HTMLCanvasElement>(null);
  const { width } = useSize(canvas);
  const colourOf = useMarkerColour();
  const columns = useMemo(() => (width > 0 ? columnsOf(model, width) : []), [model, width]);

  useEffect(() => {
    const element = canvas.current!;
    const ratio = window.devicePixelRatio;
    element.width = Math.round(width * ratio);
    element.height = Math.round(height * ratio);
    const context = element.getContext('2d')!;
    context.scale(ratio, ratio);
    context.clearRect(0, 0, width, height);
    for (const column of columns) drawColumn(context, column, height, tokens);
    for (const { place } of model.cuts?.slice(1) ?? []) drawCut(context, model, place, width, height, tokens);
    for (const marker of model.markers ?? []) drawMarker(context, model, marker, width, height, colourOf);
    if (at !== undefined) drawPointer(context, model, at, width, height, tokens);
    // oxlint-disable-next-line react/exhaustive-deps -- the colours go with the tokens
  }, [columns, model, at, width, height, tokens]);

  const seek = (event: PointerEvent<HTMLCanvasElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    onSeek?.(frameUnder(model, (event.clientX - box.left) / box.width));
  };
  const onKey = (event: KeyboardEvent) => {
    const step = { ArrowLeft: -1, ArrowRight: 1, PageUp: -10, PageDown: 10, Home: -Infinity, End: Infinity }[event.key];
    if (step === undefined || !onSeek) return;
    event.preventDefault();
    event.stopPropagation();
    onSeek(Math.min(model.last, Math.max(model.first, (at ?? model.first) + step)));
  };
  const scrubs = onSeek !== undefined;
  const words =
    at === undefined ? stripWords(model) : (wordsOf?.(at) ?? `frame ${at}${isPresent(model, at) ? '' : ', missing'}`);
  return (
    <Box
      component="canvas"
      ref={canvas}
      role={scrubs ? 'slider' : 'img'}
      aria-label={label ?? (scrubs ? 'Frame' : stripWords(model))}
      aria-valuemin={scrubs ? model.first : undefined}
      aria-valuemax={scrubs ? model.last : undefined}
      aria-valuenow={scrubs ? at : undefined}
      aria-valuetext={scrubs ? words : undefined}
      tabIndex={scrubs ? 0 : undefined}
      onPointerDown={
        scrubs
          ? (event: PointerEvent<HTMLCanvasElement>) => {
              event.currentTarget.setPointerCapture(event.pointerId);
              seek(event);
            }
          : undefined
      }
      onPointerMove={
        scrubs ? (event: PointerEvent<HTMLCanvasElement>) => event.buttons === 1 && seek(event) : undefined
      }
      onKeyDown={onKey}
      sx={{
        display: 'block',
        width: '100%',
        height,
        cursor: scrubs ? 'ew-resize' : undefined,
        touchAction: scrubs ? 'none' : undefined,
      }}
    />
  );
}

function drawColumn(context: CanvasRenderingContext2D, column: Column, height: number, tokens: Tokens): void {
  const { hue, saturation, light, heavy } = tokens.strata;
  const rim = Math.round(height * 0.17);
  const gap = column.width > 5 ? 0.8 : 0;
  const width = Math.max(0.7, column.width - gap);
  if (column.kind === 'absent') {
    context.fillStyle = tokens.rule;
    context.fillRect(column.x, height / 2 - 0.5, column.width, 1);
    return;
  }
  if (column.kind === 'missing') {
    context.fillStyle = tokens.fault;
    context.fillRect(column.x, height - 3, Math.max(2, width), 3);
    return;
  }
  context.fillStyle = `hsl(${hue} ${saturation}% ${Math.round(light + (heavy - light) * column.weight)}%)`;
  const top = column.doubled ? 0 : rim;
  context.fillRect(column.x, top, width, column.doubled ? height : height - 2 * rim);
  if (!column.suspect) return;
  context.fillStyle = tokens.doubt;
  const middle = column.x + width / 2;
  context.beginPath();
  context.moveTo(middle, 0);
  context.lineTo(middle + 4, 4);
  context.lineTo(middle, 8);
  context.lineTo(middle - 4, 4);
  context.fill();
  context.globalAlpha = 0.5;
  context.fillRect(column.x, rim, width, height - 2 * rim);
  context.globalAlpha = 1;
}

/** A cut between two shots: the strip is parted, and a line stands in the gap. */
function drawCut(
  context: CanvasRenderingContext2D,
  { first, last }: StripModel,
  place: number,
  width: number,
  height: number,
  tokens: Tokens,
): void {
  const x = ((place - first) * width) / (last - first + 1);
  context.clearRect(x - 2, 0, 4, height);
  context.fillStyle = tokens.ink;
  context.fillRect(x - 0.75, 0, 1.5, height);
}

/** A flag that stands on the strip, its pole where the marker begins, a line below it for as long as it lasts. */
function drawMarker(
  context: CanvasRenderingContext2D,
  model: StripModel,
  { frame, length, colour }: Marker,
  width: number,
  height: number,
  colourOf: (colour: MarkerColour) => string,
): void {
  const each = width / (model.last - model.first + 1);
  const x = (frame - model.first + 0.5) * each;
  context.fillStyle = colourOf(colour);
  context.fillRect(x - 0.75, 0, 1.5, height);
  context.fillRect(x, 0, 6, 5);
  if (length > 1) context.fillRect(x, height - 2, (length - 1) * each, 2);
}

function drawPointer(
  context: CanvasRenderingContext2D,
  model: StripModel,
  at: number,
  width: number,
  height: number,
  tokens: Tokens,
): void {
  const x = ((at - model.first + 0.5) / (model.last - model.first + 1)) * width;
  context.fillStyle = tokens.act;
  context.fillRect(x - 1, 0, 2, height);
  context.beginPath();
  context.moveTo(x - 6, 0);
  context.lineTo(x + 6, 0);
  context.lineTo(x, 8);
  context.fill();
}
