import type { Pattern } from './pattern.ts';
import type { FrameRange } from './ranges.ts';

/** A frame whose name is not the one its pattern gives, such as `pan.07.exr` in `pan.####.exr`. */
export interface IrregularFrame {
  frame: number;
  name: string;
}

/** Numbered files of one folder that make one sequence. */
export interface Sequence {
  pattern: Pattern;
  coverage: FrameRange[];
  /** Frame numbers, ascending, and beside each the index of its file among the names that were grouped. */
  frames: Float64Array;
  files: Uint32Array;
  irregular: IrregularFrame[];
  /** Files whose number another file of the sequence holds already. */
  doubled: IrregularFrame[];
  /** Whether numbers are written in hexadecimal: then most names are irregular. */
  hexadecimal?: boolean;
}
