import { useEffect } from 'react';
import { hasFrames, plainLooking } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useSourceQuery } from '../api/api.ts';
import { useAppSelector } from '../state/store.ts';
import { grounds, type Ground } from './draw.ts';
import { decodeFrame, framesOf, isThere, stageSpan, picturesOf } from './frames.ts';
import { useCache } from './useCache.ts';

/** Frames ahead that are fetched of what lies behind, while playing. */
const ahead = 48;

/** The frame of a source that lies behind so many frames after the first; its ends are held. */
function behindAt(source: ListedSource, since: number): number {
  const { first, last } = stageSpan(source);
  return Math.min(last, first + since);
}

/** What lies behind the picture: squares and colours, or a frame of another source, counted from both first frames. */
export function useBackground(source: ListedSource, frame: number, width: number, playing: boolean): Ground {
  const background = useAppSelector(({ stage }) => stage.background);
  const id = background.kind === 'source' ? background.id : undefined;
  const { currentData: behind } = useSourceQuery(id ?? '', { skip: id === undefined });
  const cache = useCache(
    behind && width > 0 ? `${picturesOf(behind)}/${width}` : null,
    () => framesOf(behind!, width, 'quick'),
    '',
    decodeFrame('quick', plainLooking),
  );
  const since = frame - stageSpan(source).first;
  useEffect(() => {
    if (!cache || !behind) return;
    const count = playing && hasFrames(behind) ? ahead : 1;
    const frames = Array.from({ length: count }, (_, offset) => behindAt(behind, since + offset));
    cache.want([...new Set(frames)].filter((one) => isThere(behind, one)));
  }, [cache, behind, since, playing]);
  if (background.kind === 'checker') return 'checker';
  if (background.kind === 'colour') return { colour: background.colour };
  if (background.kind !== 'source') return { colour: grounds[background.kind] };
  const held = behind && cache?.get(behindAt(behind, since));
  return held?.state === 'ready' ? { picture: held.picture } : { colour: grounds.grey };
}
