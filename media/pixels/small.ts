import { filled, halfTable, maxCode, type Image, type SampleFormat } from '@shale/core';
import { pixelAddon } from './addon.ts';

/** A small picture: so many columns, every row, in 8-bit codes. */
export interface Small {
  rows: number;
  data: Float32Array;
}

const none = new Float64Array(0);
const known = new Map<SampleFormat, { values: Float64Array; alphas: Float64Array }>();

/** What every stored sample is as a code of 8 bits, halves by their square root, as the eye sees light; and as a share of alpha. */
function tablesOf(sample: SampleFormat): { values: Float64Array; alphas: Float64Array } {
  if (sample === 'f32') return { values: none, alphas: none };
  let tables = known.get(sample);
  if (tables) return tables;
  const most = maxCode(sample);
  const halves = halfTable();
  const length = sample === 'u8' ? 256 : 65_536;
  tables = {
    values: filled(new Float64Array(length), (code) =>
      most === undefined ? 255 * Math.sqrt(halves[code]! > 0 ? Math.min(1, halves[code]!) : 0) : (255 * code) / most,
    ),
    alphas: filled(new Float64Array(length), (code) => (most === undefined ? halves[code]! : code / most)),
  };
  known.set(sample, tables);
  return tables;
}

/** A picture made small, every row by itself, so that its fields stay apart. @param stride samples from one row to the next */
export function smallOf(
  { width, height, channels, sample, data }: Image,
  columns: number,
  stride = width * channels,
): Small {
  const out = new Float32Array(columns * height);
  const { values, alphas } = tablesOf(sample);
  pixelAddon.small(data, width, height, channels, values, alphas, columns, out, stride);
  return { rows: height, data: out };
}
