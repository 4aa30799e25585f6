import { z } from 'zod';

/** A stretch of frames that can be played again and again, by places in a row. */
export const cleanLoopSchema = z.object({
  first: z.int().min(0),
  /** Included: `first` follows it. */
  last: z.int().min(0),
  /** Mean difference at the seam, in codes of 255: of the frame that would follow from the first, and of the two after them. */
  seam: z.number().min(0),
  /** The same between frames that follow one another there, on average: a seam of as much is not seen. */
  step: z.number().min(0),
});
export type CleanLoop = z.infer<typeof cleanLoopSchema>;

/** Mean difference of two small pictures of one size. */
function apart(a: Float32Array, b: Float32Array): number {
  let sum = 0;
  for (let at = 0; at < a.length; at += 1) sum += Math.abs(a[at]! - b[at]!);
  return sum / Math.max(1, a.length);
}

/** Loops that are told, at the most. */
const mostTold = 3;

/**
 * The stretches whose seams are least seen, the best first: the frame behind the last is nearest to the first, and goes on as that does.
 * Each is another by more than a twelfth of their length. @param pictures small, of one size, in their order
 * @param least frames of a loop
 */
export function cleanLoops(pictures: readonly Float32Array[], least: number): CleanLoop[] {
  const count = pictures.length;
  const steps = pictures.slice(1).map((one, at) => apart(pictures[at]!, one));
  const found: CleanLoop[] = [];
  // What would follow the last has to be there to be held against the first, and what follows that where it is.
  for (let first = 0; first + least < count; first += 1)
    for (let next = first + least; next < count; next += 1) {
      const seams = [apart(pictures[first]!, pictures[next]!)];
      if (next + 1 < count) seams.push(apart(pictures[first + 1]!, pictures[next + 1]!));
      const seam = seams.reduce((sum, one) => sum + one, 0) / seams.length;
      found.push({ first, last: next - 1, seam, step: 0 });
    }
  // Nothing follows the last frame of all: it is a loop where the way back to the first is a step as those beside it.
  if (count >= Math.max(3, least)) {
    const beside = (steps[0]! + steps[count - 2]!) / 2;
    const seam = Math.abs(apart(pictures[count - 1]!, pictures[0]!) - beside);
    found.push({ first: 0, last: count - 1, seam, step: 0 });
  }
  // Of seams that are alike the longer loop shows more.
  found.sort((a, b) => a.seam - b.seam || b.last - b.first - (a.last - a.first));
  const told: CleanLoop[] = [];
  for (const one of found) {
    const near = Math.max(2, (one.last - one.first) / 12);
    const isNear = (other: CleanLoop) =>
      Math.abs(other.first - one.first) <= near && Math.abs(other.last - one.last) <= near;
    if (told.some(isNear)) continue;
    const within = steps.slice(one.first, one.last);
    told.push({ ...one, step: within.reduce((sum, step) => sum + step, 0) / Math.max(1, within.length) });
    if (told.length === mostTold) break;
  }
  return told;
}
