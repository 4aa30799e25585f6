import { filled } from '../pixels/filled.ts';
import { canvasAlpha, takenCanvas, toPrimaries, toStraight, valueTable, type Canvas } from '../pixels/canvas.ts';
import { hasAlphaChannel, isFloat, maxCode, type Image } from '../pixels/image.ts';
import { primariesBetween } from '../pixels/primaries.ts';
import { quickToLinear } from '../pixels/transfer.ts';
import type { AlphaKind, DeclaredTransfer, Primaries } from '../pixels/colourNames.ts';
import type { Declaration } from '../spec/declaration.ts';

/** What a picture is taken to be for looking at it. */
export interface Taken {
  alpha: AlphaKind;
  transfer: DeclaredTransfer;
  primaries: Primaries;
  /** The colour that it lies on, as stored, where alpha is `on-colour`. */
  matte: [number, number, number] | null;
}

/** What a source is taken to be for looking at it; what is not declared is shown as straight sRGB. */
export const takenAs = ({ alpha, transfer, primaries, matte }: Declaration): Taken => ({
  alpha: alpha.value ?? 'straight',
  transfer: transfer.value ?? 'srgb',
  primaries: primaries.value ?? 'bt709',
  matte: matte.value,
});

/** What a stored colour sample may be warned of; a pixel has those of all its colours, and of all pixels that it stands for. */
export const warningBits = {
  /** The greatest code of integers. */
  top: 1,
  /** Code 0 of integers. */
  bottom: 2,
  /** A float above 1, below 0. */
  above: 4,
  below: 8,
  /** NaN or infinite. */
  notNumber: 16,
} as const;

/** The most light that a view keeps: the greatest finite half float, which infinity is shown as. */
const brightest = 65_504;

/** A picture for looking at, of the size that it is looked at in: linear light under BT.709 primaries, every value finite. */
export interface View {
  width: number;
  height: number;
  /** How colour relates to alpha; `none` where alpha is 1 throughout. */
  alpha: Canvas['alpha'];
  /** `width * height` pixels of red, green, blue and alpha. */
  data: Float32Array;
  /** {@link warningBits} of every pixel. Clear pixels have none of top and bottom. */
  warnings: Uint8Array;
}

/** Into which smaller pixel each pixel falls, and how much of it; the rest falls into the next. */
export interface Falls {
  into: Int32Array;
  share: Float64Array;
}

/** How `from` pixels fall into `to`, of which there are no more. */
function fallsOf(from: number, to: number): Falls {
  const falls = { into: new Int32Array(from), share: new Float64Array(from) };
  for (let at = 0; at < from; at += 1) {
    const into = Math.floor((at * to) / from);
    const bound = ((into + 1) * from) / to;
    falls.into[at] = into;
    // Where the bound is all but on a pixel's edge, no sliver of it goes over.
    falls.share[at] = bound - at > 1 - 1e-9 ? 1 : bound - at;
  }
  return falls;
}

/** The light of every code, finite; undefined for 32-bit floats. */
const lights = new Map<string, Float32Array>();
function lightTable(sample: Image['sample'], transfer: DeclaredTransfer): Float32Array | undefined {
  const values = valueTable(sample);
  if (!values) return undefined;
  const key = `${sample} ${transfer}`;
  let table = lights.get(key);
  if (!table) {
    const toLinear = quickToLinear(transfer);
    table = filled(new Float32Array(values.length), (code) => finite(toLinear(values[code]!)));
    lights.set(key, table);
  }
  return table;
}

/** What every code is worth as alpha, finite; undefined for 32-bit floats. */
const alphaTables = new Map<Image['sample'], Float32Array>();
function alphaTable(sample: Image['sample']): Float32Array | undefined {
  const values = valueTable(sample);
  if (!values) return undefined;
  let table = alphaTables.get(sample);
  if (!table) alphaTables.set(sample, (table = Float32Array.from(values, finite)));
  return table;
}

const finite = (value: number): number =>
  value !== value ? 0 : value > brightest ? brightest : value < -brightest ? -brightest : value;

/** Warnings of every code; undefined for 32-bit floats. */
const warnings = new Map<Image['sample'], Uint8Array>();
function warningTable(sample: Image['sample']): Uint8Array | undefined {
  const values = valueTable(sample);
  if (!values) return undefined;
  let table = warnings.get(sample);
  if (!table) {
    const max = maxCode(sample);
    table = new Uint8Array(values.length);
    if (max === undefined) filled(table, (code) => warningOfFloat(values[code]!));
    if (max !== undefined) {
      table[0] = warningBits.bottom;
      table[max] = warningBits.top;
    }
    warnings.set(sample, table);
  }
  return table;
}

function warningOfFloat(value: number): number {
  if (!Number.isFinite(value)) return warningBits.notNumber;
  return value > 1 ? warningBits.above : value < 0 ? warningBits.below : 0;
}

/** Whether colour can be brought to light sample by sample: not where it has a share of alpha in a curve, or another colour. */
const isSeparable = ({ alpha, transfer }: Taken): boolean =>
  alpha !== 'on-colour' && (alpha !== 'premultiplied' || transfer === 'linear');

/** A picture whose colours can be brought to light sample by sample: its own samples, or floats that are straight. */
function separated(image: Image, taken: Taken): { image: Image; alpha: Canvas['alpha'] } {
  const alpha = hasAlphaChannel(image) ? canvasAlpha(taken.alpha) : 'none';
  if (alpha === 'none' || isSeparable(taken)) return { image, alpha };
  const canvas = takenCanvas(image, taken);
  toStraight(canvas);
  const { width, height, stride, data } = canvas;
  return { image: { width, height, channels: stride as 2 | 4, sample: 'f32', data }, alpha: 'straight' };
}

/** Sums of a pixel: three colours (times alpha where they are straight), alpha, weight, and straight colours by themselves. */
const sumsEach = 8;

/** What a view is gathered from; {@link viewOf} works it out. */
export interface ViewJob {
  /** Whose colours are brought to light sample by sample. */
  source: Image;
  /** The picture as it is stored, whose warnings are entered: `source`, but where that is worked floats. */
  stored: Image;
  transfer: DeclaredTransfer;
  alpha: Canvas['alpha'];
  /** Of every pixel across and of every row. */
  columns: Falls;
  rows: Falls;
  /** The finite light of every code of `source`, and what it is worth as alpha; undefined for 32-bit floats. */
  lights: Float32Array | undefined;
  alphas: Float32Array | undefined;
  /** {@link warningBits} of every code of `stored`; undefined for 32-bit floats. */
  warnings: Uint8Array | undefined;
  /** Filled: its data in the primaries of the picture. */
  view: View;
}

/** Fills a view: core's own loops, or the same compiled. */
export type Gather = (job: ViewJob) => void;

/**
 * A picture brought to light and made smaller: every pixel is the mean of what it covers, straight colours weighed by their
 * alpha. It is never enlarged, and no warning is lost.
 * @param width the most pixels across, 1 or more
 */
export function viewOf(image: Image, taken: Taken, width: number, gather: Gather = gatherPlainly): View {
  const { image: source, alpha } = separated(image, taken);
  const { transfer, primaries } = taken;
  const across = Math.max(1, Math.min(width, source.width));
  const down = Math.max(1, Math.round((source.height * across) / source.width));
  const data = new Float32Array(across * down * 4);
  const view: View = { width: across, height: down, alpha, data, warnings: new Uint8Array(across * down) };
  gather({
    source,
    stored: image,
    transfer,
    alpha,
    columns: fallsOf(source.width, across),
    rows: fallsOf(source.height, down),
    lights: lightTable(source.sample, transfer),
    alphas: alphaTable(source.sample),
    warnings: warningTable(image.sample),
    view,
  });
  const colours = { ...view, stride: 4, colours: 3 as const, transfer: 'linear' as const, primaries };
  toPrimaries(colours, 'bt709', primariesBetween(primaries, 'bt709'));
  return view;
}

/** The loops as they are meant; what is compiled gives the same numbers. */
export function gatherPlainly(job: ViewJob): void {
  const { source, alpha, columns, rows, view } = job;
  const { width: across, height: down } = view;
  const line = new Float32Array(source.width * 4);
  let sums = new Float64Array(across * sumsEach);
  let next = new Float64Array(across * sumsEach);
  for (let row = 0; row < source.height; row += 1) {
    const y = rows.into[row]!;
    const share = rows.share[row]!;
    readRow(job, row, line);
    warnRow(job, row, y * across);
    addRow(sums, line, columns, share, alpha === 'straight');
    if (share < 1) {
      addRow(next, line, columns, 1 - share, alpha === 'straight');
      if (y + 1 < down) warnRow(job, row, (y + 1) * across);
    }
    if (row + 1 < source.height && rows.into[row + 1] === y) continue;
    settleRow(view, sums, y);
    [sums, next] = [next, sums];
    next.fill(0);
  }
}

/** Reads a row as light and alpha, four numbers a pixel. */
function readRow({ source, transfer, alpha, lights: table, alphas }: ViewJob, row: number, line: Float32Array): void {
  const { width, channels, data } = source;
  const curve = quickToLinear(transfer);
  const colours = channels <= 2 ? 1 : 3;
  const start = row * width * channels;
  if (table) {
    const second = colours === 3 ? 1 : 0;
    for (let x = 0, at = start, to = 0; x < width; x += 1, at += channels, to += 4) {
      line[to] = table[data[at]!]!;
      line[to + 1] = table[data[at + second]!]!;
      line[to + 2] = table[data[at + 2 * second]!]!;
    }
  } else {
    for (let x = 0, at = start, to = 0; x < width; x += 1, at += channels, to += 4) {
      line[to] = finite(curve(data[at]!));
      line[to + 1] = colours === 3 ? finite(curve(data[at + 1]!)) : line[to]!;
      line[to + 2] = colours === 3 ? finite(curve(data[at + 2]!)) : line[to]!;
    }
  }
  for (let x = 0, at = start + colours, to = 3; x < width; x += 1, at += channels, to += 4)
    line[to] = alpha === 'none' ? 1 : alphas ? alphas[data[at]!]! : finite(data[at]!);
}

/** The warnings that clear pixels have: not those of the ends of integers. */
export const clearShows = (sample: Image['sample']): number =>
  isFloat(sample) ? 255 : 255 & ~(warningBits.top | warningBits.bottom);

/** Enters the warnings of a row's stored samples into the pixels that they fall into. */
function warnRow({ stored, alpha, columns, warnings: table, view }: ViewJob, row: number, start: number): void {
  const { width, channels, data, sample } = stored;
  const { into, share } = columns;
  const colours = channels <= 2 ? 1 : 3;
  const shows = clearShows(sample);
  for (let x = 0, at = row * width * channels; x < width; x += 1, at += channels) {
    let bits = table ? table[data[at]!]! : warningOfFloat(data[at]!);
    if (colours === 3)
      bits |= table
        ? table[data[at + 1]!]! | table[data[at + 2]!]!
        : warningOfFloat(data[at + 1]!) | warningOfFloat(data[at + 2]!);
    if (bits === 0) continue;
    if (alpha !== 'none' && data[at + colours] === 0) bits &= shows;
    const to = start + into[x]!;
    view.warnings[to]! |= bits;
    if (share[x]! < 1) view.warnings[to + 1]! |= bits;
  }
}

/** Adds a row's share. */
function addRow(
  sums: Float64Array,
  line: Float32Array,
  { into, share: shares }: Falls,
  share: number,
  weighs: boolean,
): void {
  for (let x = 0, at = 0; x < into.length; x += 1, at += 4) {
    const mine = shares[x]!;
    const to = into[x]! * sumsEach;
    addPixel(sums, to, line, at, share * mine, weighs);
    if (mine < 1) addPixel(sums, to + sumsEach, line, at, share * (1 - mine), weighs);
  }
}

function addPixel(
  sums: Float64Array,
  to: number,
  line: Float32Array,
  at: number,
  weight: number,
  weighs: boolean,
): void {
  const opacity = line[at + 3]!;
  const coloured = weighs ? weight * opacity : weight;
  sums[to]! += line[at]! * coloured;
  sums[to + 1]! += line[at + 1]! * coloured;
  sums[to + 2]! += line[at + 2]! * coloured;
  sums[to + 3]! += opacity * weight;
  sums[to + 4]! += weight;
  if (!weighs || opacity === 1) return;
  sums[to + 5]! += line[at]! * weight;
  sums[to + 6]! += line[at + 1]! * weight;
  sums[to + 7]! += line[at + 2]! * weight;
}

function settleRow({ width, data, alpha }: View, sums: Float64Array, y: number): void {
  for (let x = 0, from = 0, to = y * width * 4; x < width; x += 1, from += sumsEach, to += 4) {
    const weight = sums[from + 4]!;
    const opacity = sums[from + 3]!;
    // Where all is clear straight colours have no weight: they are shown as they are.
    const clear = alpha === 'straight' && !(opacity > 0);
    const over = alpha === 'straight' && !clear ? opacity : weight;
    const first = from + (clear ? 5 : 0);
    data[to] = sums[first]! / over;
    data[to + 1] = sums[first + 1]! / over;
    data[to + 2] = sums[first + 2]! / over;
    data[to + 3] = opacity / weight;
  }
}
