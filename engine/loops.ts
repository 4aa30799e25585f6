import { cleanLoops, coverageCount, frameAt, type CleanLoop } from '@shale/core';
import { smalls, smallColumns, type Stretch } from './differences.ts';

/** Frames that are compared each with each, at the most. */
const mostCompared = 600;

/** Rows of what is compared. */
const rows = 36;

/** A small picture of every row, in as many rows as are compared. */
function lower(data: Float32Array, high: number): Float32Array {
  const low = new Float32Array(smallColumns * rows);
  const counts = new Float32Array(rows);
  for (let y = 0; y < high; y += 1) {
    const row = Math.floor((y * rows) / high);
    counts[row]! += 1;
    for (let x = 0; x < smallColumns; x += 1) low[row * smallColumns + x]! += data[y * smallColumns + x]!;
  }
  for (let at = 0; at < low.length; at += 1) low[at]! /= Math.max(1, counts[Math.floor(at / smallColumns)]!);
  return low;
}

/** Loops of a source, by the numbers of its frames. @param least frames of one @returns those found; of the first 600 frames */
export async function loopsOf(
  { root, source }: Pick<Stretch, 'root' | 'source'>,
  least: number,
  signal?: AbortSignal,
): Promise<CleanLoop[]> {
  const end = Math.min(mostCompared, coverageCount(source.coverage));
  const pictures: Float32Array[] = [];
  for await (const small of smalls({ root, source, start: 0, end })) {
    if (signal?.aborted) return [];
    // One that cannot be read is like nothing.
    pictures.push(small ? lower(small.data, small.rows) : new Float32Array(smallColumns * rows).fill(-1e6));
  }
  const numberOf = (place: number) => frameAt(source.coverage, place)!;
  return cleanLoops(pictures, least).map((one) => ({ ...one, first: numberOf(one.first), last: numberOf(one.last) }));
}
