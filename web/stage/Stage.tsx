import Box from '@mui/material/Box';
import { useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { covers, frameSpan, hasFrames, printRate, type Rate } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { previewUrl, takenVersion } from '../api/api.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { mono } from '../theme/theme.ts';
import { drawPicture, fit, grounds, type Place } from './draw.ts';
import { FrameCache } from './frameCache.ts';
import { frameReached } from './state.ts';
import { usePlayback, type PlaybackState } from './usePlayback.ts';

/** Widths that previews are made in: the smallest that fills the stage is asked for. */
const sizes = [480, 960, 1440, 1920];

const tag = {
  position: 'absolute',
  top: 10,
  bgcolor: 'rgba(20,24,26,.82)',
  color: '#fff',
  p: '3px 9px',
  borderRadius: '4px',
  fontSize: 12.5,
  fontFamily: mono,
};

/** Frames of a source that can be stepped through: a clip of video shows its first, a still is one. */
export const stageSpan = (source: ListedSource): { first: number; last: number } =>
  hasFrames(source) ? frameSpan(source.coverage)! : { first: 0, last: 0 };

/** The frame that the stage stands at. */
export function useStageFrame(source: ListedSource): number {
  const asked = useAppSelector((state) => state.stage.frames[source.id]);
  const { first, last } = stageSpan(source);
  return Math.min(last, Math.max(first, asked ?? first));
}

/** Playing goes so: the rate that was reached beside the one that was asked for. */
function playbackWords(rate: Rate, { filling, achieved, dropped }: PlaybackState): string {
  if (filling) return 'fetching frames';
  if (achieved === null) return `playing at ${printRate(rate)}`;
  return `${achieved.toFixed(1)} of ${printRate(rate)}, ${dropped} dropped`;
}

interface Props {
  source: ListedSource;
  /** The rate to play at; undeclared sources do not play. */
  rate: Rate | null;
  /** Drawn over the picture, given where it stands on the stage. */
  over?: (place: Place) => ReactNode;
}

/** The viewer: one frame over its background, or its alpha; stepped, scrubbed, played. A missing frame shows as missing. */
export function Stage({ source, rate, over }: Props) {
  const dispatch = useAppDispatch();
  const { view, background, playing } = useAppSelector((state) => state.stage);
  const at = useStageFrame(source);
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [, redraw] = useState(0);

  useEffect(() => {
    const element = box.current!;
    const observer = new ResizeObserver(() => setSize({ width: element.clientWidth, height: element.clientHeight }));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const needed = size.width * Math.min(2, window.devicePixelRatio);
  const width = sizes.find((one) => one >= needed) ?? sizes[sizes.length - 1]!;
  const identity = [source.id, takenVersion(source), width].join('/');
  const hasSize = size.width > 0;
  const cache = useMemo(
    () =>
      hasSize
        ? new FrameCache(
            (frame) => previewUrl(source, frame, width),
            () => redraw((count) => count + 1),
          )
        : null,
    // The identity says when pictures differ; the source object changes with every poll.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [identity, hasSize],
  );
  useEffect(() => {
    cache?.open();
    return () => cache?.close();
  }, [cache]);

  const span = useMemo(() => stageSpan(source), [source]);
  const present = !hasFrames(source) || covers(source.coverage, at);
  const playback = usePlayback({
    playing: playing && rate !== null && hasFrames(source),
    rate: rate ?? { num: 1, den: 1 },
    span,
    coverage: source.coverage,
    cache,
    at,
    onFrame: (frame) => dispatch(frameReached({ source: source.id, frame })),
  });

  useEffect(() => {
    if (!cache || playing) return;
    const near = [0, 1, -1, 2, -2, 3]
      .map((offset) => at + offset)
      .filter((frame) => frame >= span.first && frame <= span.last);
    cache.want(near.filter((frame) => !hasFrames(source) || covers(source.coverage, frame)));
  }, [cache, at, playing, span, source]);

  const held = cache?.get(at);
  useEffect(() => {
    const element = canvas.current!;
    const ratio = window.devicePixelRatio;
    element.width = Math.round(size.width * ratio);
    element.height = Math.round(size.height * ratio);
    const context = element.getContext('2d')!;
    context.scale(ratio, ratio);
    if (!present || held?.state !== 'ready' || !source.facts) return;
    drawPicture(
      context,
      held.picture,
      fit(source.facts.width, source.facts.height, size.width, size.height),
      view,
      background,
    );
  }, [held, present, size, view, background, source.facts]);

  const words = !source.facts
    ? 'No frame of this source could be read'
    : !present
      ? `Frame ${at} is missing`
      : held?.state === 'failed'
        ? held.words
        : held?.state === 'ready'
          ? undefined
          : `Reading frame ${at}`;
  return (
    <Box
      ref={box}
      data-testid="stage"
      data-frame={at}
      data-state={!present ? 'missing' : (held?.state ?? 'loading')}
      sx={{
        position: 'relative',
        minHeight: 0,
        borderRadius: '6px',
        overflow: 'hidden',
        bgcolor: grounds[background],
        backgroundColor: view === 'alpha' ? '#1c1c1c' : grounds[background],
      }}
    >
      <Box
        component="canvas"
        ref={canvas}
        role="img"
        aria-label={words ?? `${source.name}, frame ${at}`}
        sx={{ position: 'absolute', inset: 0, width: '100%', height: '100%' }}
      />
      {over && source.facts && hasSize && over(fit(source.facts.width, source.facts.height, size.width, size.height))}
      {words && (
        <Box role="status" sx={{ position: 'absolute', inset: 0, display: 'grid', placeItems: 'center' }}>
          <Box
            sx={{
              bgcolor: 'rgba(20,24,26,.82)',
              color: '#fff',
              p: '8px 14px',
              borderRadius: '4px',
              fontSize: 14,
              maxWidth: '80%',
              textAlign: 'center',
              animation: held?.state === 'failed' || !present ? undefined : 'shale-late .2s .15s both',
              '@keyframes shale-late': { from: { opacity: 0 }, to: { opacity: 1 } },
            }}
          >
            {words}
          </Box>
        </Box>
      )}
      {playing && rate && hasFrames(source) && (
        <Box data-testid="playback" sx={{ ...tag, right: 10, color: playback.dropped > 0 ? '#f3c677' : '#fff' }}>
          {playbackWords(rate, playback)}
        </Box>
      )}
      <Box sx={{ ...tag, left: 10 }}>
        {hasFrames(source) ? `frame ${at}` : source.kind === 'clip' ? 'first frame' : 'still'}
      </Box>
    </Box>
  );
}
