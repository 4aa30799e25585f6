import Box from '@mui/material/Box';
import { useEffect, useState, type ReactNode } from 'react';
import {
  channelLetters,
  hasFrames,
  isFloat,
  maxCode,
  printRate,
  printSample,
  sampleWords,
  samplesAt,
  takenAs,
  unpackPiece,
  warningColours,
  type Box as PixelBox,
  type Image,
  type Piece,
  type Rate,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { mono } from '../theme/theme.ts';
import type { Other } from './against.ts';
import { isThere } from './frames.ts';
import type { Held } from './pictureCache.ts';
import { pieceAt, type Extent, type Place } from './place.ts';
import type { CompareMode } from './state.ts';
import type { Going, PlaybackState } from './usePlayback.ts';
import type { Side } from './useSide.ts';

/** A label that stands on the picture. */
export const tag = {
  position: 'absolute',
  bgcolor: 'rgba(20,24,26,.82)',
  color: '#fff',
  p: '3px 9px',
  borderRadius: '4px',
  fontSize: 12.5,
  fontFamily: mono,
  pointerEvents: 'none',
} as const;

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
  source: ListedSource;
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
        ? `Frame ${frame} is missing`
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

/** Playing goes so: the rate that was reached beside the one that was asked for. */
const goingWords = (rate: Rate, { achieved, dropped }: Going, halfSpeed: boolean): string => {
  const asked = `${printRate(rate)}${halfSpeed ? ' at half speed' : ''}`;
  return achieved === null ? `playing at ${asked}` : `${achieved.toFixed(1)} of ${asked}, ${dropped} dropped`;
};

interface TagsProps {
  source: ListedSource;
  frame: number;
  label?: string;
  rate: Rate | null;
  playback: PlaybackState | null;
  halfSpeed: boolean;
  headRoom: number;
  /** Pixels across, where smaller pictures play than are shown at rest. */
  playedWidth: number | null;
  other: Other | null;
  otherLabel: string;
  otherFrame: number | undefined;
  mode: CompareMode | null;
  /** Whether it is the second that is shown just now. */
  blinks: boolean;
}

/** What a frame is called on the stage: what it is of, its number, its samples. */
function frameWords(source: ListedSource, frame: number, label: string | undefined): string {
  const what = hasFrames(source) ? `frame ${frame}` : 'still';
  return label === undefined
    ? what
    : [label, what, source.facts && sampleWords(source.facts.sample)].filter(Boolean).join(', ');
}

/** Labels on the stage: which frame of what is where, and how playing goes. */
export function Tags(props: TagsProps) {
  const {
    source,
    frame,
    label,
    rate,
    playback,
    halfSpeed,
    headRoom,
    playedWidth,
    other,
    otherLabel,
    otherFrame,
    mode,
    blinks,
  } = props;
  const mine = frameWords(source, frame, other ? (label ?? source.name) : label);
  const theirs = other && otherFrame !== undefined ? frameWords(other.source, otherFrame, otherLabel) : otherLabel;
  const dropped = playback ? playback.first.dropped + playback.second.dropped : 0;
  const words =
    !playback || !rate ? null : playback.filling ? 'fetching frames' : goingWords(rate, playback.first, halfSpeed);
  const second =
    words && playback && !playback.filling && other?.rate && other.against.alignment.by === 'time'
      ? goingWords(other.rate, playback.second, halfSpeed)
      : null;
  return (
    <>
      {mode === 'difference' ? (
        <Box sx={{ ...tag, top: 10 + headRoom, left: 10 }}>{`Difference: ${mine}; ${theirs}`}</Box>
      ) : mode === 'blink' ? (
        <Box sx={{ ...tag, top: 10, left: 10 }}>{blinks ? theirs : mine}</Box>
      ) : (
        <Box sx={{ ...tag, top: 10, left: 10 }}>{mine}</Box>
      )}
      {(mode === 'wipe' || mode === 'side') && (
        <Box
          data-testid="second-tag"
          sx={{ ...tag, top: 10 + headRoom, ...(mode === 'side' ? { left: 'calc(50% + 12px)' } : { right: 10 }) }}
        >
          {theirs}
        </Box>
      )}
      {words && (
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
          {words}
          {playedWidth !== null && (
            <>
              <br />
              {playedWidth} pixels across
            </>
          )}
          {second && (
            <>
              <br />
              {second}
            </>
          )}
        </Box>
      )}
    </>
  );
}

/** What the colours of the warnings mean; hatched ones lie beyond the range. */
export function WarningKey() {
  return (
    <Box sx={{ ...tag, left: 10, top: 40, display: 'grid', gap: 0.5, fontFamily: undefined }} data-testid="warning-key">
      {warningColours.map(([bit, colour, hatched, words]) => {
        const css = `rgb(${colour.join(',')})`;
        const background = hatched ? `repeating-linear-gradient(135deg, ${css} 0 3px, #141414 3px 6px)` : css;
        return (
          <Box key={bit} sx={{ display: 'flex', alignItems: 'center', gap: 0.75 }}>
            <Box
              component="span"
              sx={{ width: 12, height: 12, background, outline: '1px solid rgba(255,255,255,.5)' }}
            />
            {words}
          </Box>
        );
      })}
    </Box>
  );
}

/** A box of the picture that is measured. */
export function Region({ place, picture, box }: { place: Place; picture: Extent; box: PixelBox }) {
  const [across, down] = [place.width / picture.width, place.height / picture.height];
  return (
    <Box
      data-testid="region"
      sx={{
        position: 'absolute',
        left: place.x + box.left * across,
        top: place.y + box.top * down,
        width: box.width * across,
        height: box.height * down,
        outline: '1px solid #fff',
        boxShadow: '0 0 0 2px rgba(20,24,26,.7), inset 0 0 0 1px rgba(20,24,26,.7)',
        pointerEvents: 'none',
      }}
    />
  );
}

/** Pieces that were unpacked, by their bytes. */
const unpacked = new WeakMap<Uint8Array, Piece>();

/** A picture's samples of a pixel, where the piece that it lies in is here. */
function valuesOf(side: Side | null, pixel: { x: number; y: number }): { image: Image; values: number[] } | undefined {
  const bytes = side?.pieces?.loadedOf(pieceAt(pixel));
  if (!bytes) return undefined;
  let piece = unpacked.get(bytes);
  if (!piece) unpacked.set(bytes, (piece = unpackPiece(bytes)));
  const [x, y] = [pixel.x - piece.left, pixel.y - piece.top];
  if (x >= piece.image.width || y >= piece.image.height) return undefined;
  return { image: piece.image, values: samplesAt(piece.image, x, y) };
}

interface Read {
  label: string;
  side: Side | null;
  pixel: { x: number; y: number };
}

/** How far two pixels lie apart, in steps of the coarser; undefined where their values are not of one kind. */
function apartWords(a: Read, b: Read): string | undefined {
  const [left, right] = [valuesOf(a.side, a.pixel), valuesOf(b.side, b.pixel)];
  if (!left || !right || left.values.length !== right.values.length) return undefined;
  const [one, other] = [takenAs(a.side!.source.declaration), takenAs(b.side!.source.declaration)];
  if (one.transfer !== other.transfer || one.primaries !== other.primaries || one.alpha !== other.alpha)
    return undefined;
  const [maxA, maxB] = [maxCode(left.image.sample), maxCode(right.image.sample)];
  const apart = left.values.map((value, at) => Math.abs(value / (maxA ?? 1) - right.values[at]! / (maxB ?? 1)));
  const most = Math.max(...apart);
  if (Number.isNaN(most)) return undefined;
  if (most === 0) return 'the same';
  const codes = [maxA, maxB].filter((max) => max !== undefined);
  if (codes.length === 0) return `off by ${Number(most.toPrecision(3))} at most`;
  const steps = most * Math.min(...codes);
  return `off by ${steps.toFixed(2)} ${steps < 1 ? 'of a step' : 'steps'} at most`;
}

/** The pixel under the pointer, in the files' own values. */
export function Readout({ first, second }: { first: Read; second: Read | null }) {
  const one = (read: Read) => {
    const found = valuesOf(read.side, read.pixel);
    const isRefused = !found && read.side?.pieces?.get(pieceAt(read.pixel)).state === 'failed';
    const text = found
      ? found.values.map((value) => printSample(value, isFloat(found.image.sample))).join(' ')
      : isRefused
        ? 'cannot be read'
        : 'reading';
    const letters = found ? channelLetters(found.image.channels).join('') : '';
    return [read.label, letters, text].filter(Boolean).join(' ');
  };
  const apart = second && apartWords(first, second);
  return (
    <Box
      data-testid="readout"
      sx={{ ...tag, left: 10, right: 10, bottom: 10, display: 'flex', flexWrap: 'wrap', columnGap: 2.5, p: '5px 10px' }}
    >
      <span>{`x ${first.pixel.x} y ${first.pixel.y}`}</span>
      <span>{one(first)}</span>
      {second && <span>{one(second)}</span>}
      {apart && <span>{apart}</span>}
    </Box>
  );
}
