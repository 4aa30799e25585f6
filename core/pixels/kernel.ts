import type { Canvas } from './canvas.ts';
import type { Image, makeSamples, Samples } from './image.ts';
import type { Steps } from './quantise.ts';
import type { ResamplePass } from './resample.ts';
import type { PixelCounts, Recipe } from './recipe.ts';
import type { Course } from './steps.ts';
import type { End } from './ending.ts';

/** What pictures of one sample format look up on their way to another. */
export interface Tables {
  /** The value of every code. */
  values: Float32Array | Float64Array;
  /** The results of every code as colour, and as alpha. */
  colour: Samples;
  alpha: Samples;
  /** By code, as {@link outsideKind} has it. */
  outside: Uint8Array;
  /** The greatest code up to which none is outside; -1 where the first is. */
  safe: number;
}

/** The plain loops of plain.ts as one piece of work, for a compiled form of them. */
export interface KernelJob {
  /**
   * `narrow`: 16 bits to 8, every sample alike. `lookup`: every sample by its table. `divide`: premultiplied to straight
   * integers. `multiply`: straight to premultiplied, or over black.
   */
  way: 'narrow' | 'lookup' | 'divide' | 'multiply';
  source: Samples;
  data: Samples;
  /** Samples of a pixel in the source, and how many of them are colours. */
  step: number;
  colours: number;
  keepsAlpha: boolean;
  /** The code of alpha 1. */
  opaque: number;
  tables: Tables;
  /** The curve of every code's value: what is multiplied. */
  curved: () => Float64Array;
  /** Of integer results. */
  steps: Steps | undefined;
  /** What the result holds: of values before the curve where they are divided, after it where they are multiplied. */
  held: readonly [number, number];
}

/** A picture that is worked in floats. */
export interface WorkJob {
  image: Image;
  recipe: Recipe;
  course: Course;
  under: Image | undefined;
  counts: PixelCounts;
  /** What ends it, by what its alpha and curve are then. */
  endOf: (canvas: Pick<Canvas, 'alpha' | 'transfer' | 'colours'>) => End;
}

/** A compiled form of the plain loops. It gives what they give, or says that it does not do the work. */
export interface Kernel {
  (job: KernelJob, counts: PixelCounts): boolean;
  /** The passes of resampling; absent where core's own do them. */
  pass?: ResamplePass;
  /** A canvas's whole course compiled, whatever it is worked in; it counts what is lost. Undefined where it does not do the work. */
  work?: (job: WorkJob) => Image | undefined;
  /** Room for samples of which every one will be written; what is in it before is not 0. Absent for new arrays. */
  room?: typeof makeSamples;
}

/** None: the loops themselves do the work. */
export const noKernel: Kernel = () => false;
