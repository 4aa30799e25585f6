import { join } from 'node:path';
import { readStill, smallFrames } from '@shale/media';
import {
  fileOfFrame,
  frameAt,
  halfTable,
  hasAlphaChannel,
  isVideo,
  maxCode,
  type Difference3,
  type Image,
  type PlannedSource,
} from '@shale/core';

/** Frames of a source from one place to another (not included), counted over those that are there. */
export interface Stretch {
  /** Absolute. */
  root: string;
  source: PlannedSource;
  start: number;
  end: number;
}

/** A small picture: 64 columns, every row, in 8-bit codes. */
interface Small {
  rows: number;
  data: Float32Array;
}

/** Columns of a small picture. */
export const smallColumns = 64;

/** A picture made small, every row by itself, so that its fields stay apart. Floats by their square root, as the eye sees light. */
function smallOf(image: Image): Small {
  const { width, height, channels, sample, data } = image;
  const hasAlpha = hasAlphaChannel(image);
  const most = maxCode(sample);
  const table = sample === 'f16' ? halfTable() : undefined;
  const colours = channels > 2 ? 3 : 1;
  const codeOf = (value: number): number =>
    most === undefined ? 255 * Math.sqrt(Math.min(1, Math.max(0, value))) : (255 * value) / most;
  const small = new Float32Array(smallColumns * height);
  const counts = new Float32Array(smallColumns);
  const columns = Uint8Array.from({ length: width }, (_, x) => Math.floor((x * smallColumns) / width));
  for (const column of columns) counts[column]! += 1;
  for (let y = 0, at = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1, at += channels) {
      let sum = 0;
      for (let channel = 0; channel < colours; channel += 1) {
        const stored = data[at + channel]!;
        sum += codeOf(table ? table[stored]! : stored);
      }
      if (hasAlpha) {
        const stored = data[at + colours]!;
        sum *= most === undefined ? (table ? table[stored]! : stored) : stored / most;
      }
      small[y * smallColumns + columns[x]!]! += sum / colours;
    }
  for (let at = 0; at < small.length; at += 1) small[at]! /= Math.max(1, counts[at % smallColumns]!);
  return { rows: height, data: small };
}

/** How two small pictures differ; null where their heights do. */
function differenceOf(a: Small, b: Small): Difference3 | null {
  if (a.rows !== b.rows) return null;
  const sums = [0, 0];
  for (let y = 0; y < a.rows; y += 1) {
    let sum = 0;
    for (let at = y * smallColumns; at < (y + 1) * smallColumns; at += 1) sum += Math.abs(a.data[at]! - b.data[at]!);
    sums[y % 2]! += sum;
  }
  const evenRows = Math.ceil(a.rows / 2);
  const [even, odd] = [
    sums[0]! / (evenRows * smallColumns),
    sums[1]! / (Math.max(1, a.rows - evenRows) * smallColumns),
  ];
  return { whole: (even * evenRows + odd * (a.rows - evenRows)) / a.rows, even, odd };
}

/** A stretch's frames as small pictures, in order; null where one cannot be read. */
export async function* smalls({ root, source, start, end }: Stretch): AsyncGenerator<Small | null> {
  if (isVideo(source)) {
    yield* smallFrames(join(root, fileOfFrame(source, 0)!), start, end, smallColumns);
    return;
  }
  for (let place = start; place < end; place += 1) {
    const frame = frameAt(source.coverage, place)!;
    const picture = source.kind === 'clip' ? frame : 0;
    yield await readStill(join(root, fileOfFrame(source, frame)!), { picture }).then(smallOf, () => null);
  }
}

/** How the frames of a stretch differ from those before them. */
export async function differencesOf(stretch: Stretch, signal?: AbortSignal): Promise<(Difference3 | null)[]> {
  const first = Math.max(0, stretch.start - 1);
  const differences: (Difference3 | null)[] = [];
  let before: Small | null = null;
  let place = first;
  for await (const small of smalls({ ...stretch, start: first })) {
    if (signal?.aborted) break;
    const follows =
      place > 0 && frameAt(stretch.source.coverage, place)! - frameAt(stretch.source.coverage, place - 1)! === 1;
    if (place >= stretch.start) differences.push(small && before && follows ? differenceOf(before, small) : null);
    before = small;
    place += 1;
  }
  return differences;
}
