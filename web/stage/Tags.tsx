import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import { Link as RouterLink } from 'react-router';
import { hasFrames, printRate, sampleWords, type Rate } from '@shale/core';
import { useAppSelector } from '../state/store.ts';
import { pictureAt, type StageSource } from './frames.ts';
import { tag } from './StageOver.tsx';
import type { Going } from './usePlayback.ts';
import type { Shown } from './useShown.ts';

/** Playing goes so: the rate that was reached beside the one that was asked for. */
const goingWords = (rate: Rate, { achieved, dropped }: Going, halfSpeed: boolean): string => {
  const asked = `${printRate(rate)}${halfSpeed ? ' at half speed' : ''}`;
  return achieved === null ? `playing at ${asked}` : `${achieved.toFixed(1)} of ${asked}, ${dropped} dropped`;
};

/** How playing goes, a line for each source that keeps a time of its own; none while it does not play. */
function playingLines({ playback, other, playsSmall, width }: Shown, rate: Rate | null, halfSpeed: boolean): string[] {
  if (!playback || !rate) return [];
  const small = playsSmall ? [`${width} pixels across`] : [];
  if (playback.filling) return ['fetching frames', ...small];
  const keepsTime = other?.rate && other.against.alignment.by === 'time';
  const heard = { heard: ['with sound'], silent: [], refused: ['press Play again to hear it'] }[playback.sound];
  const second = keepsTime ? [goingWords(other.rate!, playback.second, halfSpeed)] : [];
  return [goingWords(rate, playback.first, halfSpeed), ...heard, ...small, ...second];
}

/** What a frame is called on the stage: what it is of, its number, its samples. */
function frameWords(source: StageSource, frame: number, label: string | undefined): string {
  if (source.row) return source.row.words(frame);
  const what = hasFrames(source) ? `frame ${frame}` : 'still';
  return label === undefined
    ? what
    : [label, what, source.facts && sampleWords(source.facts.sample)].filter(Boolean).join(', ');
}

interface Props {
  shown: Shown;
  rate: Rate | null;
  /** What the source is called, and what it is compared with. */
  label?: string;
  otherLabel: string;
  /** Pixels at the top that something of the page covers. */
  headRoom: number;
  /** While they blink: whether it is the second's turn. */
  showsSecond: boolean;
}

/** Labels on the stage: which frame of what is where, and how playing goes. */
export function Tags({ shown, rate, label, otherLabel, headRoom, showsSecond }: Props) {
  const halfSpeed = useAppSelector(({ stage }) => stage.halfSpeed);
  const { first, at, other, otherAt, mode, playback } = shown;
  const mine = frameWords(first.source, at, other ? (label ?? first.source.name) : label);
  const theirs = other && otherAt !== undefined ? frameWords(other.source, otherAt, otherLabel) : otherLabel;
  const isDifference = mode === 'difference';
  const left = isDifference ? `Difference: ${mine}; ${theirs}` : mode === 'blink' && showsSecond ? theirs : mine;
  const lines = playingLines(shown, rate, halfSpeed);
  const dropped = playback ? playback.first.dropped + playback.second.dropped : 0;
  return (
    <>
      <Box sx={{ ...tag, top: isDifference ? 10 + headRoom : 10, left: 10 }}>{left}</Box>
      {(mode === 'wipe' || mode === 'side') && (
        <Box
          data-testid="second-tag"
          sx={{ ...tag, top: 10 + headRoom, ...(mode === 'side' ? { left: 'calc(50% + 12px)' } : { right: 10 }) }}
        >
          {theirs}
        </Box>
      )}
      {lines.length > 0 && (
        <Box
          data-testid="playback"
          sx={{
            ...tag,
            top: headRoom + (other ? 40 : 10),
            right: 10,
            textAlign: 'right',
            color: dropped > 0 ? '#f3c677' : '#fff',
          }}
        >
          {lines.map((line) => (
            <div key={line}>{line}</div>
          ))}
          {playback && playback.first.dropped > 0 && (
            <Link
              component={RouterLink}
              to={`/inspect/${pictureAt(first.source, at).source.id}?beside=weight`}
              onPointerDown={(event) => event.stopPropagation()}
              sx={{ color: '#fff', pointerEvents: 'auto', textDecoration: 'underline' }}
            >
              lighter versions
            </Link>
          )}
        </Box>
      )}
    </>
  );
}
