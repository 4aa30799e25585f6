import Box from '@mui/material/Box';
import { useEffect, useState, type ReactNode } from 'react';
import { isThere, type StageSource } from './frames.ts';
import type { Pane } from './panes.ts';
import type { Held } from './pictureCache.ts';
import type { Place } from './place.ts';
import type { CompareMode } from './state.ts';

/** Whole seconds since a moment, told once they are worth telling; null before. */
function useWaited(since: number | null): number | null {
  const [now, setNow] = useState(0);
  useEffect(() => {
    if (since === null) return undefined;
    const timer = setInterval(() => setNow(performance.now()), 250);
    return () => clearInterval(timer);
  }, [since]);
  const seconds = since === null ? 0 : Math.floor((now - since) / 1000);
  return seconds >= 1 ? seconds : null;
}

interface WordsProps {
  source: StageSource;
  frame: number;
  held: Held | undefined;
  /** The part of the stage that it is said in; all of it where absent. */
  area?: Place;
  /** Said in place of what is known of the frame. */
  instead?: ReactNode;
}

/** What stands where there is no picture: missing, damaged, no answer, or on its way and for how long. */
export function StageWords({ source, frame, held, area, instead }: WordsProps) {
  const isLoading =
    instead === undefined && source.facts && isThere(source, frame) && (!held || held.state === 'loading');
  const waited = useWaited(isLoading && held?.state === 'loading' ? held.since : null);
  const words =
    instead ??
    (!source.facts
      ? 'No frame of this source could be read'
      : !isThere(source, frame)
        ? (source.row?.words(frame) ?? `Frame ${frame} is missing`)
        : held?.state === 'failed' || held?.state === 'lost'
          ? held.words
          : held?.state === 'ready'
            ? undefined
            : `Reading frame ${frame}${waited === null ? '' : `, ${waited} s`}`);
  if (!words) return null;
  const box = area ? { left: area.x, top: area.y, width: area.width, height: area.height } : { inset: 0 };
  return (
    <Box
      role="status"
      sx={{ position: 'absolute', ...box, display: 'grid', placeItems: 'center', pointerEvents: 'none' }}
    >
      <Box
        sx={{
          bgcolor: 'rgba(20,24,26,.82)',
          color: '#fff',
          p: '8px 14px',
          borderRadius: '4px',
          fontSize: 14,
          maxWidth: '80%',
          textAlign: 'center',
          pointerEvents: 'auto',
          animation: isLoading ? 'shale-late .2s .15s both' : undefined,
          '@keyframes shale-late': { from: { opacity: 0 }, to: { opacity: 1 } },
        }}
      >
        {words}
      </Box>
    </Box>
  );
}

interface SecondProps {
  pane: Pane;
  mode: CompareMode | null;
  /** While they blink: whether it is the second's turn. */
  showsSecond: boolean;
  /** Said where no frame of it goes with the first's. */
  noPartner?: ReactNode;
}

/** The same for what the source is compared with, in its part of the stage. */
export function SecondWords({ pane: { side, area }, mode, showsSecond, noPartner }: SecondProps) {
  const { source, frame, held } = side;
  const isTold = mode === 'wipe' ? held?.state !== 'ready' : mode === 'side' || (mode === 'blink' && showsSecond);
  if (!isTold) return null;
  const place = mode === 'wipe' ? { ...area, x: area.x + area.width / 2, width: area.width / 2 } : area;
  if (frame !== undefined && (!noPartner || isThere(source, frame)))
    return <StageWords source={source} frame={frame} held={held} area={place} />;
  const instead = noPartner ?? 'No matching frame';
  return <StageWords source={source} frame={0} held={undefined} area={place} instead={instead} />;
}
