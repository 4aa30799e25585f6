import { z } from 'zod';
import { valueTable } from '../pixels/canvas.ts';
import { maxCode, type Image } from '../pixels/image.ts';
import type { Box } from '../pixels/picture.ts';
import { channelNames, channelNameSchema } from './samples.ts';

const count = z.int().min(0);

/** What one stored channel of a picture, or of a part of it, holds; codes for integers, values for floats. */
export const channelScopeSchema = z.object({
  name: channelNameSchema,
  /** Of all finite samples; null where there is none. */
  least: z.number().nullable(),
  most: z.number().nullable(),
  mean: z.number().nullable(),
  /** Standard deviation of all of them (divided by their number). */
  deviation: z.number().nullable(),
  /** Integers: samples at code 0 and at the greatest code. */
  bottom: count,
  top: count,
  /** Floats: samples below 0 and above 1, and those that are no numbers. */
  below: count,
  above: count,
  nan: count,
  infinite: count,
  /** Samples in equal parts of the domain. */
  histogram: z.array(count),
  /** Column after column of the picture: samples in equal parts of the domain. */
  waveform: z.array(count),
});
export type ChannelScope = z.infer<typeof channelScopeSchema>;

/** A picture's samples told in numbers. */
export const scopesSchema = z.object({
  /** What is looked at, in pixels of the picture. */
  box: z.object({ left: count, top: count, width: z.int().min(1), height: z.int().min(1) }),
  /** Samples that the file has. */
  integers: z.boolean(),
  /** Least and greatest value of the histogram's and the waveform's domain. */
  domain: z.tuple([z.number(), z.number()]),
  /** Columns and parts of a waveform. */
  columns: count,
  levels: count,
  channels: z.array(channelScopeSchema),
});
export type Scopes = z.infer<typeof scopesSchema>;

/** Parts of a histogram, columns and parts of a waveform. */
const bins = 256;
const mostColumns = 128;
const levels = 64;

/** Tells what a box of a picture holds, all of it where none is given. @param box within the picture */
export function scopesOf(
  image: Image,
  box: Box = { left: 0, top: 0, width: image.width, height: image.height },
): Scopes {
  const { sample, channels } = image;
  const max = maxCode(sample);
  const values = valuesOf(sample);
  const found = channelNames[channels].map((name, channel) =>
    values ? tallied(name, tallyOf(image, box, channel), values, max) : measured(name, planeOf(image, box, channel)),
  );
  const ends = found.flatMap(({ least, most }) => (least === null ? [] : [least, most!]));
  // Floats have at least the range of what is shown; a greater one where they reach beyond.
  const domain: [number, number] = max === undefined ? [Math.min(0, ...ends), Math.max(1, ...ends)] : [0, max];
  // Integers fall into equal groups of codes, the last one included.
  const width = domain[1] - domain[0] + (max === undefined ? 0 : 1);
  const columns = Math.min(mostColumns, box.width);
  return {
    box,
    integers: max !== undefined,
    domain,
    columns,
    levels,
    channels: found.map((one, channel) => spread(image, box, channel, one, (value) => (value - domain[0]) / width)),
  };
}

/** What a code of a format is counted as: itself for integers, its value for halves; undefined for 32-bit floats. */
function valuesOf(sample: Image['sample']): ArrayLike<number> | undefined {
  const max = maxCode(sample);
  if (max === undefined) return valueTable(sample);
  return Uint16Array.from({ length: max + 1 }, (_, code) => code);
}

const emptyScope = (name: ChannelScope['name']): ChannelScope => ({
  ...{ name, least: null, most: null, mean: null, deviation: null },
  ...{ bottom: 0, top: 0, below: 0, above: 0, nan: 0, infinite: 0, histogram: [], waveform: [] },
});

/** How often each code stands in a channel of a box. */
function tallyOf({ width, channels, data }: Image, { left, top, width: across, height }: Box, channel: number) {
  const tally = new Uint32Array(65_536);
  for (let y = top; y < top + height; y += 1) {
    const from = (y * width + left) * channels + channel;
    for (let at = from; at < from + across * channels; at += channels) tally[data[at]!]! += 1;
  }
  return tally;
}

function tallied(
  name: ChannelScope['name'],
  tally: Uint32Array,
  values: ArrayLike<number>,
  max: number | undefined,
): ChannelScope {
  const scope = emptyScope(name);
  if (max !== undefined) [scope.bottom, scope.top] = [tally[0]!, tally[max]!];
  return { ...scope, ...momentsOf(values, tally, max === undefined) };
}

/** The samples of a channel of a box as values. */
function planeOf({ width, channels, data }: Image, { left, top, width: across, height }: Box, channel: number) {
  const plane = new Float32Array(across * height);
  for (let y = 0, to = 0; y < height; y += 1) {
    let at = ((top + y) * width + left) * channels + channel;
    for (let x = 0; x < across; x += 1, at += channels, to += 1) plane[to] = data[at]!;
  }
  return plane;
}

const measured = (name: ChannelScope['name'], plane: Float32Array): ChannelScope => ({
  ...emptyScope(name),
  ...momentsOf(plane, undefined, true),
});

/** Ends, mean and deviation of values, each as often as `tally` says, or once; of floats what lies beyond and is no number, too. */
function momentsOf(values: ArrayLike<number>, tally: Uint32Array | undefined, floats: boolean) {
  let [least, most, sum, count] = [Infinity, -Infinity, 0, 0];
  const beyond = { below: 0, above: 0, nan: 0, infinite: 0 };
  for (let at = 0; at < values.length; at += 1) {
    const times = tally ? tally[at]! : 1;
    if (times === 0) continue;
    const value = values[at]!;
    if (value !== value) beyond.nan += times;
    else if (value === Infinity || value === -Infinity) beyond.infinite += times;
    else {
      count += times;
      sum += value * times;
      if (value < least) least = value;
      if (value > most) most = value;
    }
    if (floats && value < 0) beyond.below += times;
    if (floats && value > 1) beyond.above += times;
  }
  if (count === 0) return beyond;
  const mean = sum / count;
  let squares = 0;
  for (let at = 0; at < values.length; at += 1) {
    const times = tally ? tally[at]! : 1;
    if (times > 0 && Number.isFinite(values[at]!)) squares += times * (values[at]! - mean) ** 2;
  }
  return { ...beyond, least, most, mean, deviation: Math.sqrt(squares / count) };
}

/** Enters the histogram and the waveform. @param placeOf where a value lies in the domain, 0 to 1 */
function spread(
  { width, channels, data, sample }: Image,
  { left, top, width: across, height }: Box,
  channel: number,
  scope: ChannelScope,
  placeOf: (value: number) => number,
): ChannelScope {
  const columns = Math.min(mostColumns, across);
  const fine = bins / levels;
  // Parts of the histogram; those of the waveform are groups of them.
  const columnParts = new Uint32Array(columns * bins);
  const values = valuesOf(sample);
  const partOf = (value: number) =>
    Number.isFinite(value) ? Math.min(bins - 1, Math.floor(placeOf(value) * bins)) : -1;
  const table = values && Int16Array.from(values, partOf);
  const columnOf = Int32Array.from({ length: across }, (_, x) => Math.floor((x * columns) / across) * bins);
  for (let y = top; y < top + height; y += 1) {
    let at = (y * width + left) * channels + channel;
    for (let x = 0; x < across; x += 1, at += channels) {
      const part = table ? table[data[at]!]! : partOf(data[at]!);
      if (part >= 0) columnParts[columnOf[x]! + part]! += 1;
    }
  }
  const histogram = new Array<number>(bins).fill(0);
  const waveform = new Array<number>(columns * levels).fill(0);
  for (let at = 0; at < columnParts.length; at += 1) {
    histogram[at % bins]! += columnParts[at]!;
    waveform[Math.floor(at / bins) * levels + Math.floor((at % bins) / fine)]! += columnParts[at]!;
  }
  return { ...scope, histogram, waveform };
}
