import { coverageCount, framesOf, missingFrom, type Coverage, type FrameRange } from './ranges.ts';

/** Columns in a row of tiles. */
const across = 10;

/**
 * Rows and columns of texture tiles numbered by their place, from 1001 on with ten places a row; undefined where the numbers have no
 * gap, or one elsewhere than at the ends of rows, or not at the end of each.
 */
export function tilesIn(coverage: Coverage): { rows: number; columns: number } | undefined {
  if (coverage.length < 2 && coverage[0]?.step !== across) return undefined;
  if (coverage[0]!.first !== 1001 || coverage.at(-1)!.last > 1999 || coverageCount(coverage) > 999) return undefined;
  const widths: number[] = [];
  for (const number of framesOf(coverage)) {
    const row = Math.floor((number - 1001) / across);
    const column = (number - 1001) % across;
    // Every row begins at its first place, and none is left out; rows that run into one another are a shot with a gap.
    if (row === widths.length && column === 0 && widths[row - 1] !== across) widths.push(1);
    else if (row === widths.length - 1 && column === widths[row]) widths[row] = column + 1;
    else return undefined;
  }
  return { rows: widths.length, columns: Math.max(...widths) };
}

/** Numbers that are missing among those of a source; none between the rows of tiles. */
export const gapsIn = (coverage: Coverage): FrameRange[] => (tilesIn(coverage) ? [] : missingFrom(coverage));
