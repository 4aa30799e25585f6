import { useEffect } from 'react';
import { takenAs, type Looking } from '@shale/core';
import type { DrawnPiece } from './draw.ts';
import {
  decodeFrame,
  framesOf,
  isThere,
  kindFor,
  pictureAt,
  picturesOf,
  piecesOf,
  type PictureKind,
  type StageSource,
} from './frames.ts';
import type { Held, PictureCache } from './pictureCache.ts';
import { render } from './renderer.ts';
import { useCache } from './useCache.ts';

/** One source on the stage: its frames and, of the one that is shown, the pieces in its own samples. */
export interface Side {
  source: StageSource;
  frame: number | undefined;
  frames: PictureCache<Blob> | null;
  pieces: PictureCache<Uint8Array> | null;
  /** Of the frame; undefined where it is not there. */
  held: Held | undefined;
}

interface Wanted {
  source: StageSource | null;
  frame: number | undefined;
  looking: Looking;
  /** Pixels across that pictures are wanted in; 0 before the stage has a size. */
  width: number;
  /** Whether frames are fetched: not where something else stands in for them. */
  fetches: boolean;
}

/** Keeps the pictures of one source. */
export function useSide({ source, frame, looking, width, fetches }: Wanted): Side | null {
  const kind: PictureKind = kindFor(looking);
  const mine = source && picturesOf(source);
  const look = JSON.stringify(looking);
  const frames = useCache(
    mine && width > 0 && fetches ? `${mine}/${width}/${kind}` : null,
    () => framesOf(source!, width, kind),
    kind === 'quick' ? '' : look,
    decodeFrame(kind, looking),
  );
  const isShown = source !== null && frame !== undefined && isThere(source, frame);
  const pieces = useCache(
    isShown && source.facts ? `${mine}/${frame}` : null,
    () => piecesOf(source!, frame!),
    look,
    (bytes) => render({ kind: 'piece', bytes, taken: takenAs(pictureAt(source!, frame!).source.declaration), looking }),
  );
  if (!source) return null;
  return { source, frame, frames, pieces, held: isShown && frames ? frames.get(frame) : undefined };
}

/** Asks for pieces of a side, and gives those that can be drawn. */
export function usePieces(side: Side | null, wanted: readonly number[], drawn: boolean): DrawnPiece[] {
  const pieces = side?.pieces ?? null;
  const list = wanted.join();
  useEffect(() => {
    pieces?.want(list === '' ? [] : list.split(',').map(Number));
  }, [pieces, list]);
  if (!pieces || !drawn) return [];
  return wanted.flatMap((piece) => {
    const held = pieces.get(piece);
    return held.state === 'ready' ? [{ piece, picture: held.picture }] : [];
  });
}
