import { covers, type FrameRange, type Rate } from '@shale/core';

/** Frames from first to last, some of which may be missing. */
export interface Track {
  span: { first: number; last: number };
  coverage: readonly FrameRange[];
}

/** The way through the frames while playing. */
export interface Route {
  /** The frame that playing began at. */
  start: number;
  /** Back and forth, in place of around and around. */
  returns: boolean;
}

/** Frames that have begun after so many milliseconds: exact but for the clock itself. */
export const begunAfter = (milliseconds: number, { num, den }: Rate, halfSpeed: boolean): number =>
  (milliseconds * num) / (1000 * den * (halfSpeed ? 2 : 1));

/** Where one is after `gone` frames, whole or not: from the first frame on, 0 up to the count. */
export function placeAfter({ first, last }: Track['span'], { start, returns }: Route, gone: number): number {
  const count = last - first + 1;
  const from = start - first + gone;
  if (!returns || count < 2) return ((from % count) + count) % count;
  // There and back, the ends shown once each.
  const around = 2 * (count - 1);
  const at = from % around;
  return at < count ? at : around - at;
}

/** The frames that will be shown next, each once, those that are there. */
export function framesFrom(track: Track, route: Route, gone: number, many: number): number[] {
  const { first, last } = track.span;
  const frames = new Set<number>();
  const most = Math.min(many, (last - first + 1) * 2);
  for (let ahead = 0; ahead < most; ahead += 1) {
    const frame = first + Math.floor(placeAfter(track.span, route, gone + ahead));
    if (covers(track.coverage, frame)) frames.add(frame);
  }
  return [...frames];
}
