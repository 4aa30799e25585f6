import { covers, frameSpan, hasFrames, type Looking } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { takenVersion } from '../api/api.ts';
import { Refused, type Decode, type Source } from './pictureCache.ts';
import { pieceBegin, pieceSide, type Shape } from './place.ts';
import { render } from './renderer.ts';

/** A row of pictures out of several sources, seen as one source. */
export interface Row {
  /** Says when a place of it shows another picture. */
  key: string;
  /** The picture at a place; undefined where there is none. */
  at: (place: number) => { source: ListedSource; frame: number } | undefined;
  /** What a place is called on the stage. */
  words: (place: number) => string;
}

/** What the stage shows: a source, or a row that is told as one. */
export interface StageSource extends ListedSource {
  row?: Row;
}

/** The source that a picture on the stage is of, and its frame there. */
export const pictureAt = (source: StageSource, frame: number): { source: ListedSource; frame: number } =>
  source.row?.at(frame) ?? { source, frame };

/** Identity of a source's pictures: they are others once its files or what it is taken to be changes. */
export const picturesOf = (source: StageSource): string => `${source.id}/${source.row?.key ?? takenVersion(source)}`;

/** How pictures come from the server: small and coded, or in light with what the stage needs to work on them. */
export type PictureKind = 'quick' | 'half' | 'float';

/** Widths that pictures are made in: the smallest that fills the stage is asked for. */
const widths = [480, 960, 1440, 1920, 2880];
export const widthFor = (pixels: number): number => widths.find((one) => one >= pixels) ?? widths[widths.length - 1]!;

/** What is enough for a way of looking: colours and alpha as they are need no light. */
export const kindFor = ({ channel, exposure, gamma, warns }: Looking): PictureKind =>
  (channel === 'colour' || channel === 'alpha') && exposure === 0 && gamma === 1 && !warns ? 'quick' : 'half';

/** Frames of a source that can be stepped through: a still is one. */
export const stageSpan = (source: ListedSource): { first: number; last: number } =>
  hasFrames(source) ? (frameSpan(source.coverage) ?? { first: 0, last: 0 }) : { first: 0, last: 0 };

/** A source's size and the shape of its pixels as it is declared. */
export function shapeOf({ facts, declaration }: ListedSource): Shape {
  const { num, den } = declaration.pixelAspect.value ?? { num: 1, den: 1 };
  return { width: facts?.width ?? 1, height: facts?.height ?? 1, aspect: num / den };
}

/** Whether a frame is there. */
export const isThere = (source: ListedSource, frame: number): boolean =>
  !hasFrames(source) || covers(source.coverage, frame);

/** Codes of problems that pass by themselves. */
const passing = new Set(['worker-crashed', 'server-gone']);

/** Fetches bytes. @throws Refused with the server's own words */
export async function fetchBytes(url: string, signal: AbortSignal): Promise<Blob> {
  const answer = await fetch(url, { signal });
  if (answer.ok) return answer.blob();
  const problem = (await answer.json().catch(() => ({}))) as { fact?: string; wayOut?: string; code?: string };
  const isPassing = answer.status === 503 || passing.has(problem.code ?? '');
  throw new Refused(
    problem.fact ? `${problem.fact} ${problem.wayOut ?? ''}`.trim() : 'The server gave no picture.',
    isPassing,
  );
}

const frameUrl = ({ id }: ListedSource, frame: number, what: string): string =>
  `/api/sources/${id}/frames/${frame}/${what}`;

/** The address of a frame's preview; `v` changes with the file and with what it is taken to be, so that it may be kept. */
export function previewUrl(shown: StageSource, place: number, width: number, kind: PictureKind = 'quick'): string {
  const { source, frame } = pictureAt(shown, place);
  return frameUrl(source, frame, `preview?width=${width}&format=${kind}&v=${encodeURIComponent(takenVersion(source))}`);
}

/** Frames of a source as pictures of a width. */
export const framesOf = (source: StageSource, width: number, kind: PictureKind): Source<Blob> => ({
  load: (frame, signal) => fetchBytes(previewUrl(source, frame, width, kind), signal),
  sizeOf: ({ size }) => size,
});

/** Makes what is shown of a frame's bytes. */
export const decodeFrame =
  (kind: PictureKind, looking: Looking): Decode<Blob> =>
  async (blob) =>
    kind === 'quick'
      ? createImageBitmap(blob, { premultiplyAlpha: 'none' })
      : render({ kind: 'view', bytes: new Uint8Array(await blob.arrayBuffer()), looking });

/** Two frames that belong together. */
type Pair = readonly [Blob, Blob];

/** Frames of two sources that are held against each other; where the second has none, the first has no difference. */
export const differencesOf = (
  a: ListedSource,
  b: ListedSource,
  width: number,
  partner: (frame: number) => number | undefined,
): Source<Pair> => ({
  load: async (frame, signal) => {
    const other = partner(frame);
    if (other === undefined || !isThere(b, other))
      throw new Refused(other === undefined ? 'No matching frame' : `Frame ${other} is missing`, false);
    const urls = [previewUrl(a, frame, width, 'float'), previewUrl(b, other, width, 'float')] as const;
    return Promise.all([fetchBytes(urls[0], signal), fetchBytes(urls[1], signal)]);
  },
  sizeOf: ([left, right]) => left.size + right.size,
});

export const decodeDifference =
  (looking: Looking, gain: number): Decode<Pair> =>
  async ([a, b]) => {
    const [left, right] = await Promise.all([a.arrayBuffer(), b.arrayBuffer()]);
    return render({ kind: 'difference', a: new Uint8Array(left), b: new Uint8Array(right), looking, gain });
  };

/** Pieces of a frame in its own samples, by their number. */
export const piecesOf = (shown: StageSource, place: number): Source<Uint8Array> => ({
  load: async (piece, signal) => {
    const { source, frame } = pictureAt(shown, place);
    const { x, y } = pieceBegin(piece);
    const box = `left=${x}&top=${y}&width=${pieceSide}&height=${pieceSide}`;
    return new Uint8Array(await (await fetchBytes(frameUrl(source, frame, `piece?${box}`), signal)).arrayBuffer());
  },
  sizeOf: ({ byteLength }) => byteLength,
});
