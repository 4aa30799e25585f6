import type { DrawnPiece } from './draw.ts';
import { placeOf, type Extent, type Place, type Shape, type Zoom } from './place.ts';
import type { CompareMode } from './state.ts';
import type { Side } from './useSide.ts';

/** A point of a picture, in its pixels, or of the stage, in its own. */
export interface Point {
  x: number;
  y: number;
}

/** Where a picture stands on the stage. */
export interface Laid {
  /** The part of the stage that it may cover. */
  area: Place;
  /** Where it stands when none of it is cut off. */
  place: Place;
  /** Its own size. */
  size: Shape;
}

/** A picture on the stage: the source that is looked at, and after it the one that it is compared with. */
export interface Pane extends Laid {
  side: Side;
  /** The pixel of it that is read. */
  pixel: Point | undefined;
  /** Parts that are drawn from its own samples. */
  pieces: readonly DrawnPiece[];
}

/** The parts of the stage: one that all pictures share, or one for each where they stand side by side. */
export function areasOf(size: Extent, mode: CompareMode | null): Place[] {
  const whole = { x: 0, y: 0, ...size };
  if (mode !== 'side') return [whole];
  const width = Math.floor((size.width - 4) / 2);
  return [
    { ...whole, width },
    { ...whole, x: size.width - width, width },
  ];
}

/** The zoom of a second picture: the same part of it, if it has another size. */
function zoomFor(zoom: Zoom | null, from: Extent, to: Extent): Zoom | null {
  if (!zoom || (from.width === to.width && from.height === to.height)) return zoom;
  const factor = to.width / from.width;
  return { scale: zoom.scale / factor, x: zoom.x * factor, y: (zoom.y * to.height) / from.height };
}

/** Where pictures of these sizes stand. @param zoom of the first: the others follow it */
export function layOut(sizes: readonly Shape[], areas: readonly Place[], zoom: Zoom | null): Laid[] {
  return sizes.map((size, at) => {
    const area = areas[at] ?? areas[0]!;
    return { area, size, place: placeOf(size, area, zoomFor(zoom, sizes[0]!, size)) };
  });
}

/** The pixel at the same place of a picture of another size. */
export const scaled = ({ x, y }: Point, from: Extent, to: Extent): Point => ({
  x: Math.min(to.width - 1, Math.floor(((x + 0.5) * to.width) / from.width)),
  y: Math.min(to.height - 1, Math.floor(((y + 0.5) * to.height) / from.height)),
});

/**
 * Whether pictures that are fetched at a width are too coarse for what is shown: its own samples are drawn then.
 * @param ratio pixels of the screen in one of the page
 */
export const needsPieces = ({ place, size }: Laid, width: number, ratio: number): boolean =>
  (place.width / size.width) * ratio > (Math.min(width, size.width) / size.width) * 1.02;
