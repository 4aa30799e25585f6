import {
  areAlike,
  halfTable,
  maxCode,
  numberToHalf,
  psnrOf,
  type Difference,
  type Image,
  type Kernel,
  type Similarity,
} from '@shale/core';
import { pixelAddon } from './pixels/addon.ts';
import { compiledPass } from './pixels/pass.ts';
import { compiledWork } from './pixels/work.ts';
import { roomFor } from './room.ts';

const ways = { narrow: 0, lookup: 1, divide: 2, multiply: 3 } as const;
const doubles = new WeakMap<object, Float64Array>();

/** Values as doubles, as the compiled loops take them; made once for each table. */
function asDoubles(values: Float32Array | Float64Array): Float64Array {
  if (values instanceof Float64Array) return values;
  let made = doubles.get(values);
  if (!made) doubles.set(values, (made = Float64Array.from(values)));
  return made;
}

/** {@link compareImages}, compiled: lossy formats differ in nearly every sample. */
export function compareQuickly(a: Image, b: Image): Difference | undefined {
  if (!areAlike(a, b)) return undefined;
  const [samples, most] = pixelAddon.compare(a.data, b.data, a.sample === 'f16' ? asDoubles(halfTable()) : none);
  return { samples, most };
}

/** {@link similarityOf}, compiled. */
export function similarQuickly(a: Image, b: Image): Similarity | undefined {
  const { width, height, channels, sample } = a;
  if (!areAlike(a, b)) return undefined;
  const values = sample === 'f16' ? halfTable() : noValues;
  const most = maxCode(sample) ?? 1;
  const [error, ssim] = pixelAddon.likeness(a.data, b.data, width, height, channels, values, most);
  return { psnr: psnrOf(error, a.data.length, most), ssim };
}

const noValues = new Float32Array(0);
const none = new Float64Array(0);
const noGuesses = new Uint16Array(0);
/** What a half result multiplies to is worked out by core's own rule: the addon has the same. */
const halfOne = numberToHalf(1);

/** Core's plain loops, compiled: the same tables, the same numbers, a fraction of the time. */
const compiledLoops: Kernel = (job, counts) => {
  const { way, source, data, step, colours, keepsAlpha, opaque, tables, steps, held } = job;
  if (source instanceof Float32Array || data instanceof Float32Array) return false;
  if (way === 'divide' && !steps) return false;
  const isHalf = way === 'multiply' && !steps && tables.alpha[opaque] === halfOne;
  if (way === 'multiply' && !steps && !isHalf) return false;
  const [nan, infinite, glow, ...outsideBy] = pixelAddon.convert({
    way: ways[way],
    source,
    data,
    step,
    colours,
    keepsAlpha,
    opaque,
    colour: tables.colour as Uint8Array | Uint16Array,
    alpha: tables.alpha as Uint8Array | Uint16Array,
    outside: tables.outside,
    safe: tables.safe,
    values: asDoubles(tables.values),
    curved: way === 'multiply' ? job.curved() : none,
    bounds: steps?.bounds ?? none,
    guesses: steps?.guesses ?? noGuesses,
    parts: steps?.parts ?? 0,
    max: steps?.max ?? 0,
    isHalf,
    domain: [steps?.least ?? 0, steps?.most ?? 1],
    held: [held[0], held[1]],
  });
  counts.nan += nan;
  counts.infinite += infinite;
  counts.glow += glow;
  for (let channel = 0; channel < 3; channel += 1) {
    counts.low[channel]! += outsideBy[channel]!;
    counts.high[channel]! += outsideBy[3 + channel]!;
  }
  return true;
};

/** Core's loops over pixels, compiled, and room that is used again. */
export const compiledKernel: Kernel = Object.assign(compiledLoops, {
  pass: compiledPass,
  work: compiledWork,
  room: roomFor,
});
