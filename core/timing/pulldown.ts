import type { Line } from './line.ts';

/** Which picture gives the top and which the bottom lines of each result, as lines over one another. */
export interface Woven {
  top: Line;
  bottom: Line;
}

const ordered = (first: Line, second: Line, lines: 'top' | 'bottom'): Woven =>
  lines === 'top' ? { top: first, bottom: second } : { top: second, bottom: first };

/**
 * 3:2 pulldown: A B C D become A, B, B with C, C with D, D; the earlier of two pictures has the lines that are shown first.
 * @param phase the place in that cycle of five at which the first result is
 */
export function weave(phase: number, lines: 'top' | 'bottom'): Woven {
  // The pictures of result k are floor((4k + 1) / 5) and floor((4k + 3) / 5); a phase begins later in the cycle.
  const at = (shift: number): Line => {
    const start = 4 * phase + shift;
    return { from: Math.floor(start / 5) - Math.floor((4 * phase + 1) / 5), step: 4, phase: start % 5, den: 5 };
  };
  return ordered(at(1), at(3), lines);
}

/**
 * The way back: results by the frames that hold their lines. Of five frames the third has the later picture in its second lines and
 * the fourth has it in its first.
 * @param phase the place in the cycle at which the first frame is: 0 where it and the next are whole and the third is woven
 */
export function unweave(phase: number, lines: 'top' | 'bottom'): Woven {
  // Picture k of a cycle has its first lines in frame floor((5k + 2) / 4) and its second in floor((5k + 1) / 4).
  const picture = firstWhole(phase);
  const at = (shift: number): Line => {
    const start = 5 * picture + shift;
    return { from: Math.floor(start / 4) - phase, step: 5, phase: start % 4, den: 4 };
  };
  return ordered(at(2), at(1), lines);
}

/** The first picture of a cycle whose lines are all in frames from `phase` on. */
function firstWhole(phase: number): number {
  let picture = 0;
  while (Math.floor((5 * picture + 1) / 4) < phase) picture += 1;
  return picture;
}

/** How many pictures are whole in so many frames: the last frame that one needs is that of its first lines. */
export function unwovenCount(frames: number, phase: number): number {
  const picture = firstWhole(phase);
  let count = 0;
  while (Math.floor((5 * (picture + count) + 2) / 4) - phase < frames) count += 1;
  return count;
}

/** How many frames so many pictures make, the last of them whole. */
export function wovenCount(pictures: number, phase: number): number {
  const first = Math.floor((4 * phase + 1) / 5);
  let count = 0;
  while (Math.floor((4 * (phase + count) + 3) / 5) - first < pictures) count += 1;
  return count;
}
