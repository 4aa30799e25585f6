import { createRequire } from 'node:module';
import { fileURLToPath } from 'node:url';
import type { DeclaredTransfer, SampleFormat } from '@shale/core';

type Codes = Uint8Array | Uint16Array;

/** Steps by their numbers, as the addon has them. */
export const stepKinds = [
  'curve',
  'divide',
  'multiply',
  'off-colour',
  'key',
  'resize',
  'pad',
  'count-clear',
  'over-colour',
  'over-picture',
  'scale',
  'levels',
  'matrix',
  'roll-off',
] as const;

/** Curves by their numbers. */
export const transferNumbers: Record<DeclaredTransfer, number> = {
  linear: 0,
  srgb: 1,
  bt709: 2,
  'gamma-2.2': 3,
  'gamma-2.4': 4,
  'film-log': 5,
  pq: 6,
  hlg: 7,
};

/** How results are stored, by their numbers: integers of any depth above 8 as 16 bits. */
export const storedNumbers: Record<SampleFormat, number> = { u8: 0, u10: 1, u12: 1, u16: 1, f16: 2, f32: 3 };

/** A step of a course: what it is set to, by its kind (work.h). */
export interface CompiledStep {
  kind: number;
  numbers?: Float64Array;
  from?: number;
  to?: number;
  isShared?: boolean;
  /** Of a curve over 0..1 that need not be exact: 65,538 entries. */
  known?: Float64Array;
  below?: Float32Array;
  width?: number;
  height?: number;
  acrossFirst?: Int32Array;
  acrossWeights?: Float64Array;
  downFirst?: Int32Array;
  downWeights?: Float64Array;
}

/** A picture through its whole course: `Job` of work.h. */
export interface CompiledJob {
  width: number;
  height: number;
  channels: number;
  hasAlpha: boolean;
  source: Codes | Float32Array;
  /** Of a sample. */
  bytes: 1 | 2 | 4;
  /** Of every code, as colour and as alpha; absent for floats of 32 bits. */
  values?: Float32Array;
  alphaValues?: Float32Array;
  light?: Float64Array;
  matrix?: Float64Array;
  steps: CompiledStep[];
  end: {
    sample: number;
    max: number;
    usesAlpha: boolean;
    keepsAlpha: boolean;
    multiplies: boolean;
    divides: boolean;
    isMatte: boolean;
    from: number;
    to: number;
    matte: Float64Array;
    least: number;
    most: number;
    slack: number;
    bounds?: Float64Array;
    guesses?: Uint16Array;
    domainLeast?: number;
    domainMost?: number;
    /** 0 none, 1 by thresholds, 2 by diffusion. */
    dither: number;
    known?: Float64Array;
    thresholds?: Float64Array;
    side?: number;
  };
  data: Codes | Float32Array;
}

/** Our own addon for core's loops over pixels: the same tables, the same order, the same numbers. */
interface PixelAddon {
  /** Core's plain loops over one picture (core/pixels/kernel.ts). @returns nan, infinite, glow, low by channel, high by channel */
  convert(job: {
    /** 0 narrow, 1 lookup, 2 divide, 3 multiply. */
    way: number;
    source: Uint8Array | Uint16Array;
    data: Uint8Array | Uint16Array;
    step: number;
    colours: number;
    keepsAlpha: boolean;
    opaque: number;
    colour: Uint8Array | Uint16Array;
    alpha: Uint8Array | Uint16Array;
    outside: Uint8Array;
    safe: number;
    values: Float64Array;
    curved: Float64Array;
    bounds: Float64Array;
    guesses: Uint16Array;
    parts: number;
    max: number;
    isHalf: boolean;
    domain: [number, number];
    held: [number, number];
  }): [nan: number, infinite: number, glow: number, ...lowHigh: number[]];
  /** How many samples of two arrays of a kind differ, and by how much at the most; `values` of halves by their bits, else empty. */
  compare(
    a: Uint8Array | Uint16Array | Float32Array,
    b: Uint8Array | Uint16Array | Float32Array,
    values: Float64Array,
  ): [samples: number, most: number];
  /**
   * The sum of all squared differences and the SSIM of two pictures (core/pixels/similarity.ts). @param values of halves by their bits, else empty
   * @param most what 1 is, in codes
   */
  likeness(
    a: Codes | Float32Array,
    b: Codes | Float32Array,
    width: number,
    height: number,
    channels: number,
    values: Float32Array,
    most: number,
  ): [error: number, ssim: number];
  /** A pass of core's resampling into `out`: across, or else down. */
  resample(
    source: Float32Array,
    out: Float32Array,
    width: number,
    height: number,
    stride: number,
    first: Int32Array,
    weights: Float64Array,
    isAcross: boolean,
  ): void;
  /** A picture made small, every row by itself, into `out`: columns by rows, which begin `stride` samples after each other. `values` and `alphas` are of every code of 8 or 16 bits, empty for floats. */
  small(
    source: Codes | Float32Array,
    width: number,
    height: number,
    channels: number,
    values: Float64Array,
    alphas: Float64Array,
    columns: number,
    out: Float32Array,
    stride: number,
  ): void;
  /**
   * A picture brought to light and made smaller: `gatherPlainly` of core/viewing/view.ts, bit for bit, of the picture's own samples.
   * Tables are of every code, empty for floats, which are light as they are; `areLight`: halves, which are too.
   * @param alpha 0 none, 1 straight, 2 premultiplied @param intoRows as `into` and `share` for columns
   * @param out four floats a pixel @throws RangeError where tables, places and samples do not fit each other
   */
  view(
    source: Codes | Float32Array,
    channels: number,
    tables: { lights: Float32Array; alphas: Float32Array; warnings: Uint8Array; areLight: boolean },
    alpha: 0 | 1 | 2,
    clearShows: number,
    into: Int32Array,
    share: Float64Array,
    intoRows: Int32Array,
    shareRows: Float64Array,
    out: Float32Array,
    warnings: Uint8Array,
    across: number,
  ): void;
  /**
   * `showView` of core for colours looked at plainly, into 8-bit sRGB. @param shares colours have their share of alpha
   * @param table 65,537 codes of light 0 to 1 @param channels 3, or 4 with straight alpha
   */
  display(view: Float32Array, shares: boolean, table: Uint8ClampedArray, channels: 3 | 4, out: Uint8Array): void;
  /**
   * Red, green and blue of 10 bits out of a 32-bit word each (SMPTE ST 268-1, annex C). @param big the words' high byte is first
   * @param gapLow the two bits between words are at the low end @throws RangeError where there are too few words
   */
  unpackTens(bytes: Uint8Array, big: boolean, gapLow: boolean, out: Uint16Array): void;
  /** The same the other way: high byte first, the gap at the low end. */
  packTens(samples: Uint16Array, out: Uint8Array): void;
  /** The first and third sample of every pixel change places. @param channels 3 or 4 */
  swapRedBlue(from: Uint8Array, channels: number, out: Uint8Array): void;
  /** Works a picture into `data`. @returns counts, and whether what was laid over a picture is opaque throughout */
  work(
    job: CompiledJob,
  ): [
    nan: number,
    infinite: number,
    glow: number,
    rolled: number,
    alphaDropped: number,
    isWhole: number,
    ...lowHigh: number[],
  ];
}

const built = fileURLToPath(new URL('./build/Release/shale_pixels.node', import.meta.url));
export const pixelAddon = createRequire(import.meta.url)(built) as PixelAddon;
