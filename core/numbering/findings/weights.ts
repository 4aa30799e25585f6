import type { FrameColumns } from '../columns.ts';
import type { Finding } from '../source.ts';
import { are, capital, framesAt, median, naming, span } from './words.ts';
import { plural } from '../../words.ts';

/** A file changed less long ago than this may still be written, in milliseconds. */
export const quietAfter = 15_000;

/** When files are looked at. */
export interface Moment {
  /** Milliseconds since 1970. */
  now: number;
  /** Milliseconds without a change after which a file counts as whole; {@link quietAfter} where nothing else is set. */
  quiet: number;
}

const hour = 3_600_000;

/** Files that hold no byte. */
export function emptyFiles({ frames, bytes }: FrameColumns, nameOf: (place: number) => string): Finding[] {
  const places: number[] = [];
  for (let at = 0; at < bytes.length; at += 1) if (bytes[at] === 0) places.push(at);
  if (places.length === 0) return [];
  return [
    {
      code: 'empty-file',
      severity: 'fault',
      sentence: `${plural(places.length, 'file')} ${places.length > 1 ? 'are' : 'is'} empty, the first is ${nameOf(places[0]!)}.`,
      short: `${plural(places.length, 'file')} empty`,
      frames: framesAt(frames, places),
      mend: 'Ask for them again.',
    },
  ];
}

/** How far a frame's weight may lie from its neighbours' before it stands out, at the least: a factor of 1.8. */
const leastFactor = Math.log(1.8);
/** Neighbours either side that a frame is held against. */
const reach = 7;
/** Steadiness is judged from this many frames at the most, spread evenly. */
const looked = 512;

/** The natural logarithm of a frame's weight over the median of its neighbours; 0 where it has none. */
function outOfStep(bytes: Float64Array, at: number, window: Float64Array): number {
  let count = 0;
  for (let beside = Math.max(0, at - reach); beside <= Math.min(bytes.length - 1, at + reach); beside += 1)
    if (beside !== at && bytes[beside]! > 0) window[count++] = bytes[beside]!;
  return count < 2 ? 0 : Math.log(bytes[at]! / median(window.subarray(0, count)));
}

/** A change of weight from one frame to the next that opens or closes a run of outliers: a factor of 1.5. */
const jump = Math.log(1.5);

/** Whether a frame's weight jumps to that of the frame beside it; an empty file and an end of the source count as a jump. */
function jumps(bytes: Float64Array, at: number, beside: number): boolean {
  const other = bytes[beside];
  return !other || Math.abs(Math.log(bytes[at]! / other)) > jump;
}

/**
 * Frames whose file is far lighter or heavier than those around: by more than 1.8 times the median of their neighbours, by
 * more than eight times what frames of this source differ as a rule (the median of their differences), and with a jump at
 * both ends, so that a picture that grows or shrinks is let be.
 * @param leaves places that have another reason to be light or heavy
 */
export function sizeOutliers({ frames, bytes }: FrameColumns, leaves: ReadonlySet<number>): Finding[] {
  if (bytes.length < 8) return [];
  const near = placesNearJumps(bytes);
  if (near.length === 0) return [];
  const window = new Float64Array(2 * reach + 1);
  const step = Math.max(1, Math.floor(bytes.length / looked));
  const usual: number[] = [];
  for (let at = 0; at < bytes.length; at += step)
    if (bytes[at]! > 0) usual.push(Math.abs(outOfStep(bytes, at, window)));
  const bound = Math.max(leastFactor, 8 * median(Float64Array.from(usual)));
  const far = new Set(near.filter((at) => bytes[at]! > 0 && Math.abs(outOfStep(bytes, at, window)) > bound));
  const places: number[] = [];
  for (const first of far) {
    if (far.has(first - 1)) continue;
    let last = first;
    while (far.has(last + 1)) last += 1;
    if (!jumps(bytes, first, first - 1) || !jumps(bytes, last, last + 1)) continue;
    for (let at = first; at <= last; at += 1) if (!leaves.has(at)) places.push(at);
  }
  // Many of them are no outliers: the source is simply uneven.
  if (places.length === 0 || places.length > bytes.length / 8) return [];
  const ranges = framesAt(frames, places);
  const light = places.filter((at) => outOfStep(bytes, at, window) < 0).length;
  const how = light === places.length ? 'lighter' : light === 0 ? 'heavier' : 'lighter or heavier';
  return [
    {
      code: 'size-outlier',
      severity: 'doubt',
      sentence: `${capital(naming(ranges))} ${are(places.length)} far ${how} than the frames around: check that the pictures are complete.`,
      short: `${capital(naming(ranges))} far ${how}`,
      frames: ranges,
      mend: 'Check them; ask again for any that are wrong.',
    },
  ];
}

/** Places, ascending, within reach of a jump: the only ones that can be outliers. */
function placesNearJumps(bytes: Float64Array): number[] {
  const places: number[] = [];
  let next = 0;
  for (let at = 1; at < bytes.length; at += 1) {
    if (bytes[at] === 0 || !jumps(bytes, at, at - 1)) continue;
    for (let place = Math.max(next, at - reach); place <= Math.min(bytes.length - 1, at + reach); place += 1) {
      places.push(place);
      next = place + 1;
    }
  }
  return places;
}

/** Times ascending, cut where more than `gap` lies between two. */
function clustersOf(times: Float64Array, gap: number): { first: number; last: number; count: number }[] {
  const clusters: { first: number; last: number; count: number }[] = [];
  for (const time of times) {
    const open = clusters[clusters.length - 1];
    if (open && time - open.last <= gap) {
      open.last = time;
      open.count += 1;
    } else clusters.push({ first: time, last: time, count: 1 });
  }
  return clusters;
}

/**
 * Frames modified long before or after the most of them: another render lies among this one. Long is an hour, and more
 * than twelve times what usually lies between one frame and the next, so that slow renders are let be.
 */
export function staleFrames({ frames, modified }: FrameColumns): Finding[] {
  const count = modified.length;
  if (count < 4) return [];
  const steps = new Float64Array(count - 1);
  for (let at = 1; at < count; at += 1) steps[at - 1] = Math.abs(modified[at]! - modified[at - 1]!);
  const gap = Math.max(hour, 12 * median(steps));
  const clusters = clustersOf(modified.slice().sort(), gap);
  if (clusters.length === 1) return [];
  const main = clusters.reduce((best, one) => (one.count > best.count ? one : best));
  const strange = count - main.count;
  // No render is the one and another the stranger.
  if (strange > count / 3) return [];
  const places: number[] = [];
  let older = 0;
  let most = 0;
  for (let at = 0; at < count; at += 1) {
    const time = modified[at]!;
    if (time >= main.first && time <= main.last) continue;
    places.push(at);
    if (time < main.first) older += 1;
    most = Math.max(most, main.first - time, time - main.last);
  }
  const ranges = framesAt(frames, places);
  const how = older === strange ? 'older' : older === 0 ? 'newer' : 'older or newer';
  return [
    {
      code: 'stale-frames',
      severity: 'doubt',
      sentence: `${capital(naming(ranges))} ${strange > 1 ? 'were' : 'was'} modified up to ${span(most)} ${how === 'newer' ? 'after' : how === 'older' ? 'before' : 'before or after'} the others: another render may be mixed in.`,
      short: `${plural(strange, 'frame')} ${span(most)} ${how}`,
      frames: ranges,
      mend: 'Compare them with their neighbours; ask again for any that belong to another render.',
    },
  ];
}

/** Whether anything of a source changed so lately that more may come. @param latest its last change, milliseconds since 1970 */
export const isStillWriting = (latest: number, { now, quiet }: Moment): boolean => latest > now - quiet;

/** @param latest its last change, milliseconds since 1970 */
export function stillWriting(latest: number, moment: Moment): Finding[] {
  if (!isStillWriting(latest, moment)) return [];
  return [
    {
      code: 'still-writing',
      severity: 'doubt',
      sentence: `A file changed less than ${plural(moment.quiet / 1000, 'second')} before the scan: more may arrive, and the last ones may be incomplete.`,
      short: 'Still being written',
      mend: 'Wait: Shale checks again by itself and tells you when nothing changes any more.',
    },
  ];
}
