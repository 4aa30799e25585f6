import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { useEffect, useState } from 'react';
import { markBits, markColours, statusTones, type LookView, type Problem, type Spec } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useStageFrame } from '../../../stage/useStageFrame.ts';
import { grounds } from '../../../stage/draw.ts';
import { useAppSelector } from '../../../state/store.ts';
import { mono } from '../../../theme/theme.ts';

interface Props {
  source: ListedSource;
  /** Rested, so that not every letter that is typed asks for a picture. */
  spec: Spec;
  view: LookView;
  /** Changes when the source or what it is taken to be does. */
  version: string;
}

/** A label that stands on the picture. */
const tag = {
  p: '3px 9px',
  borderRadius: '4px',
  bgcolor: 'rgba(20,24,26,.82)',
  color: '#fff',
  fontSize: 12.5,
  fontFamily: mono,
};

/** What came last: it stays until the next one is there, and says what it is of. */
type Got = { of: string } & (
  | { state: 'loading' }
  | { state: 'ready'; url: string; view: LookView; frame: number }
  | { state: 'failed'; problem: Problem }
);

async function ask(
  wanted: { source: string; frame: number; spec: Spec; view: LookView },
  signal: AbortSignal,
): Promise<Blob> {
  const answer = await fetch('/api/plans/look', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ ...wanted, width: 1440 }),
    signal,
  });
  if (answer.ok) return answer.blob();
  throw await answer.json();
}

const lost = (error: unknown): Problem =>
  typeof (error as Problem).fact === 'string'
    ? (error as Problem)
    : {
        code: 'no-answer',
        fact: 'The server does not answer.',
        wayOut: 'Check that it is running; Shale tries again by itself.',
      };

const css = (colour: readonly number[]): string => `rgb(${colour.join(', ')})`;
const markColour = (mark: number): string => css(markColours.find(([bit]) => bit === mark)![1]);

/** Marks of the picture of losses, as its legend names them; the colours are those that the server paints. */
const legend: readonly [colour: string, words: string][] = [
  [markColour(markBits.high), 'clipped above'],
  [markColour(markBits.low), 'clipped below'],
  [markColour(markBits.notNumber), 'not a number'],
  [markColour(markBits.alpha), 'alpha lost'],
];
const tones: typeof legend = [
  [css(statusTones.clear), 'clear'],
  [css(statusTones.partly), 'partly'],
  [css(statusTones.full), 'full'],
];

/** One frame as it will come out, worked by the server: the result, its alpha, or where something is lost. */
export function ResultView({ source, spec, view, version }: Props) {
  const frame = useStageFrame(source);
  const { tokens } = useTheme();
  const background = useAppSelector(({ stage }) => stage.background);
  const [got, setGot] = useState<Got>({ of: '', state: 'loading' });
  const wanted = JSON.stringify([source.id, frame, spec, view, version]);
  useEffect(() => {
    const stop = new AbortController();
    ask({ source: source.id, frame, spec, view }, stop.signal)
      .then((blob) => {
        // One that nobody waits for any more would be kept for ever.
        if (!stop.signal.aborted) setGot({ of: wanted, state: 'ready', url: URL.createObjectURL(blob), view, frame });
      })
      .catch((error: unknown) => !stop.signal.aborted && setGot({ of: wanted, state: 'failed', problem: lost(error) }));
    return () => stop.abort();
    // `wanted` is all of them in one text.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [wanted]);
  const url = got.state === 'ready' ? got.url : undefined;
  // A picture is let go when the next one is there, so that nothing flickers in between.
  useEffect(() => () => void (url && URL.revokeObjectURL(url)), [url]);

  const around =
    background.kind === 'colour'
      ? background.colour
      : background.kind === 'source'
        ? grounds.grey
        : grounds[background.kind];
  const checker =
    got.state === 'ready' && got.view === 'result' && background.kind === 'checker'
      ? 'repeating-conic-gradient(#767676 0 25%, #8c8c8c 0 50%) 0 0 / 32px 32px'
      : undefined;
  const shown = got.state === 'ready' ? got.view : view;
  const key = shown === 'losses' ? legend : shown === 'status' ? tones : [];
  return (
    <Box
      data-testid="result"
      data-state={got.of === wanted ? got.state : 'loading'}
      data-view={shown}
      sx={{ position: 'relative', minHeight: 0, borderRadius: '6px', overflow: 'hidden', backgroundColor: around }}
    >
      {got.state === 'ready' && (
        <Box
          component="img"
          src={got.url}
          alt={`Frame ${got.frame}: ${got.view}`}
          sx={{ position: 'absolute', inset: 0, m: 'auto', maxWidth: '100%', maxHeight: '100%', background: checker }}
        />
      )}
      {got.state === 'failed' && (
        <Box role="status" sx={{ position: 'absolute', inset: 0, display: 'grid', placeItems: 'center', p: 3 }}>
          <Box sx={{ bgcolor: 'rgba(20,24,26,.82)', color: '#fff', p: '8px 14px', borderRadius: '4px', fontSize: 14 }}>
            {got.problem.fact} {got.problem.wayOut}
          </Box>
        </Box>
      )}
      <Box sx={{ position: 'absolute', left: 10, top: 10, ...tag }}>
        {got.of === wanted || got.state === 'loading' ? `frame ${frame}` : `working frame ${frame}`}
      </Box>
      {key.length > 0 && (
        <Box
          sx={{
            position: 'absolute',
            left: 10,
            bottom: 10,
            display: 'flex',
            gap: 1.5,
            ...tag,
            fontFamily: undefined,
          }}
        >
          {key.map(([colour, words]) => (
            <Box key={words} component="span" sx={{ display: 'inline-flex', alignItems: 'center', gap: 0.75 }}>
              <Box
                component="span"
                sx={{ width: 10, height: 10, bgcolor: colour, outline: `1px solid ${tokens.soft}` }}
              />
              {words}
            </Box>
          ))}
        </Box>
      )}
    </Box>
  );
}
