import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { useEffect, useRef, useState } from 'react';
import { unpackWave, type SoundFacts, type Wave } from '@shale/core';
import { fetchBytes } from '../stage/frames.ts';
import { useSize } from '../pieces/useSize.ts';
import type { Tokens } from '../theme/tokens.ts';
import { waveUrl } from './tape.ts';

interface Props {
  source: string;
  stream: number | null;
  facts: SoundFacts;
  /** What is shown, in samples; before 0 and behind the end there is silence. */
  from: number;
  to: number;
  height: number;
  /** Whether channels are drawn over one another, for want of room. */
  together?: boolean;
  /** The sample that is heard. */
  at?: number;
  /** What is played around and around, in samples. */
  chosen?: { from: number; to: number } | null;
}

/** A waveform as it was drawn last: of which stretch. */
interface Drawn {
  wave: Wave;
  from: number;
  to: number;
}

/** A stretch of a sound drawn: each channel's peaks, its level within them, silence and clipping marked. */
export function Waveform({ source, stream, facts, from, to, height, together = false, at, chosen }: Props) {
  const { tokens } = useTheme();
  const canvas = useRef<HTMLCanvasElement>(null);
  const { width } = useSize(canvas);
  const [drawn, setDrawn] = useState<Drawn | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  useEffect(() => {
    if (width === 0 || to <= from) return undefined;
    const stop = new AbortController();
    const columns = Math.min(8192, Math.round(width * Math.min(2, window.devicePixelRatio)));
    // Dragged or zoomed, what is passed by is not fetched.
    const timer = setTimeout(() => {
      fetchBytes(waveUrl(source, stream, from, to, columns), stop.signal)
        .then(async (blob) => {
          setDrawn({ wave: unpackWave(await blob.arrayBuffer()), from, to });
          setFault(null);
        })
        .catch((error: Error) => stop.signal.aborted || setFault(error.message));
    }, 40);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [source, stream, from, to, width]);
  useEffect(() => {
    const element = canvas.current!;
    const ratio = window.devicePixelRatio;
    element.width = Math.round(width * ratio);
    element.height = Math.round(height * ratio);
    const context = element.getContext('2d')!;
    context.scale(ratio, ratio);
    const xOf = (sample: number) => ((sample - from) / (to - from)) * width;
    if (chosen) {
      context.fillStyle = tokens.actWash;
      context.fillRect(xOf(chosen.from), 0, xOf(chosen.to) - xOf(chosen.from), height);
    }
    if (drawn) drawWave(context, drawn, xOf, height, together, tokens);
    drawMarks(context, facts, xOf, width, height, tokens);
  }, [drawn, facts, from, to, width, height, together, chosen, tokens]);
  const x = at === undefined ? -1 : ((at - from) / (to - from)) * width;
  return (
    <Box sx={{ position: 'relative', height, overflow: 'hidden' }}>
      <Box
        component="canvas"
        ref={canvas}
        data-testid="waveform"
        data-drawn={drawn?.from === from && drawn.to === to}
        aria-hidden
        sx={{ display: 'block', width: '100%', height }}
      />
      {/* Moved by itself, so that nothing is drawn anew while it plays. */}
      {x >= 0 && (
        <Box
          sx={{ position: 'absolute', top: 0, left: -1, width: 2, height, bgcolor: tokens.act }}
          style={{ transform: `translateX(${x}px)` }}
        />
      )}
      {fault && (
        <Box role="alert" sx={{ position: 'absolute', inset: 0, p: 1, fontSize: 13, color: 'error.main' }}>
          {fault}
        </Box>
      )}
    </Box>
  );
}

function drawWave(
  context: CanvasRenderingContext2D,
  { wave, from, to }: Drawn,
  xOf: (sample: number) => number,
  height: number,
  together: boolean,
  tokens: Tokens,
): void {
  const { channels, data } = wave;
  const columns = data.length / channels / 3;
  const lanes = together ? 1 : channels;
  const each = height / lanes;
  const width = (xOf(to) - xOf(from)) / columns;
  for (let channel = 0; channel < channels; channel += 1) {
    const middle = ((together ? 0 : channel) + 0.5) * each;
    const half = (each / 2 - 1) / 32_767;
    context.fillStyle = tokens.rule;
    context.fillRect(0, middle - 0.5, xOf(to), 1);
    for (const level of [false, true]) {
      context.fillStyle = level ? tokens.act : tokens.ruleStrong;
      for (let column = 0; column < columns; column += 1) {
        const at = (column * channels + channel) * 3;
        const loud = data[at + 2]!;
        const [low, high] = level
          ? [Math.max(-loud, data[at]!), Math.min(loud, data[at + 1]!)]
          : [data[at]!, data[at + 1]!];
        if (low === 0 && high === 0) continue;
        const top = middle - high * half;
        context.fillRect(xOf(from) + column * width, top, Math.max(0.5, width), Math.max(1, (high - low) * half));
      }
    }
  }
}

/** Silence as a line below, clipped samples as a mark above. */
function drawMarks(
  context: CanvasRenderingContext2D,
  { silences, clipped, samples }: SoundFacts,
  xOf: (sample: number) => number,
  width: number,
  height: number,
  tokens: Tokens,
): void {
  context.fillStyle = tokens.doubt;
  for (const { from, to } of silences.listed) context.fillRect(xOf(from), height - 2, xOf(to) - xOf(from), 2);
  context.fillStyle = tokens.fault;
  for (const { from, to } of clipped.listed) context.fillRect(xOf(from), 0, Math.max(2, xOf(to) - xOf(from)), 4);
  // What lies outside the sound is not there.
  context.fillStyle = tokens.ground;
  context.globalAlpha = 0.6;
  if (xOf(0) > 0) context.fillRect(0, 0, xOf(0), height);
  if (xOf(samples) < width) context.fillRect(xOf(samples), 0, width - xOf(samples), height);
  context.globalAlpha = 1;
}
