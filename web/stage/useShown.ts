import { useMemo, useState } from 'react';
import { hasFrames, type Rate } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useScrubbed } from '../sound/useScrubbed.ts';
import type { SoundUnder } from '../sound/useUnder.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { useOther, type Other } from './against.ts';
import {
  decodeDifference,
  differencesOf,
  isThere,
  kindFor,
  picturesOf,
  stageSpan,
  widthFor,
  type StageSource,
} from './frames.ts';
import { areasOf } from './panes.ts';
import type { Held } from './pictureCache.ts';
import type { Extent, Place } from './place.ts';
import { frameReached, type CompareMode } from './state.ts';
import { useCache } from './useCache.ts';
import { useStageFrame } from './useStageFrame.ts';
import { usePlayback, type PlaybackState } from './usePlayback.ts';
import { useSide, type Side } from './useSide.ts';
import { useStill } from './useStill.ts';

/** Pixels across of pictures in light while they play. */
const lightWidth = 480;

/** What the stage shows, before it is laid out. */
export interface Shown {
  /** The frame of the source, and of what it is compared with. */
  at: number;
  otherAt: number | undefined;
  other: Other | null;
  /** Null where the source is shown alone. */
  mode: CompareMode | null;
  areas: readonly Place[];
  /** Pixels across that pictures are fetched in, and those of the screen in one of the page. */
  width: number;
  ratio: number;
  /** The source, and what it is compared with. */
  first: Side;
  second: Side | null;
  /** The picture of the frame: of the source, or of its difference to the other; undefined where it is not there. */
  held: Held | undefined;
  playback: PlaybackState | null;
  /** Whether smaller pictures play than are shown at rest. */
  playsSmall: boolean;
}

/** Fetches the frame that is wanted, or plays; of one source, or of two that are compared. */
export function useShown(
  source: StageSource,
  rate: Rate | null,
  key: string | undefined,
  size: Extent,
  sound: SoundUnder | null,
): Shown {
  const dispatch = useAppDispatch();
  const stage = useAppSelector((state) => state.stage);
  const { looking, playing, returns, halfSpeed } = stage;
  const at = useStageFrame(source);
  const other = useOther(source, key ?? '', key !== undefined);
  const mode = other ? stage.mode : null;
  const isDifference = mode === 'difference';
  const areas = areasOf(size, mode);
  const ratio = Math.min(2, window.devicePixelRatio);
  // In light a picture is many times as many bytes: while they play, smaller ones do.
  const plays = playing && rate !== null && hasFrames(source);
  const playsSmall = plays && (isDifference || kindFor(looking) !== 'quick');
  const width = size.width === 0 ? 0 : playsSmall ? lightWidth : widthFor(areas[0]!.width * ratio);

  const [playedSecond, setPlayedSecond] = useState<number | null>(null);
  const otherAt = playing && playedSecond !== null ? playedSecond : other?.partner(at);
  const fetched = { looking, width, fetches: !isDifference };
  const first = useSide({ source, frame: at, ...fetched });
  const second = useSide({ source: other?.source ?? null, frame: otherAt, ...fetched });
  const difference = useDifference(source, isDifference ? other : null, width);
  const pictures = isDifference ? difference : first!.frames;

  const { row, span } = useRow(source);
  const heard = useHeard(sound, at - row.first);
  const playback = usePlayback({
    playing: plays,
    rate: rate ?? { num: 1, den: 1 },
    span,
    coverage: source.coverage,
    returns,
    halfSpeed,
    pictures,
    second: isDifference ? null : besideOf(other, second),
    sound: heard,
    rowFirst: row.first,
    at,
    onFrame: (frame) => dispatch(frameReached({ source: source.id, frame })),
  });
  if (playback.secondFrame !== playedSecond) setPlayedSecond(playback.secondFrame);
  useStill({ source, at, playing, pictures, other, beside: second?.frames ?? null });

  const held = !isThere(source, at) ? undefined : isDifference ? difference?.get(at) : first!.held;
  const shared = { at, otherAt, other, mode, areas, width, ratio, held, playsSmall };
  return { ...shared, first: first!, second, playback: playing ? playback : null };
}

/** All frames of a source, and those of them that are played. */
function useRow(source: ListedSource) {
  const range = useAppSelector(({ stage }) => stage.ranges[source.id]);
  const row = useMemo(() => stageSpan(source), [source]);
  return { row, span: range ?? row };
}

/** What is heard with the frames, where sound is on; and of single frames as they are stepped to. @param place of the frame in its row */
function useHeard(sound: SoundUnder | null, place: number): SoundUnder | null {
  const { hears, playing } = useAppSelector(({ stage }) => stage);
  const heard = hears ? sound : null;
  useScrubbed(heard, place, playing);
  return heard;
}

/** Frames of a source held against those of another; null where none are wanted. */
function useDifference(source: ListedSource, other: Other | null, width: number) {
  const { looking, gain } = useAppSelector(({ stage }) => stage);
  return useCache(
    other && width > 0
      ? [picturesOf(source), picturesOf(other.source), width, JSON.stringify(other.against)].join('/')
      : null,
    () => differencesOf(source, other!.source, width, other!.partner),
    JSON.stringify([looking, gain]),
    decodeDifference(looking, gain),
  );
}

/** What plays beside the source: by its own time where it is aligned by time. */
function besideOf(other: Other | null, second: Side | null) {
  if (!other || !hasFrames(other.source)) return null;
  return {
    span: stageSpan(other.source),
    coverage: other.source.coverage,
    pictures: second?.frames ?? null,
    rate: other.against.alignment.by === 'time' ? other.rate : null,
    partner: other.partner,
  };
}
