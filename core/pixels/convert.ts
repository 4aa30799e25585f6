import { halfTable } from './half.ts';
import { hasAlphaChannel, isFloat, makeSamples, maxCode, type Image, type Samples } from './image.ts';
import { quantiser, type Quantiser } from './quantise.ts';
import { noCounts, type PixelCounts, type Recipe } from './recipe.ts';
import { transferBetween } from './transfer.ts';
import type { SampleFormat } from '../numbering/source.ts';

/** A recipe made ready for pictures of one sample format: its tables are worked out once and serve every frame. */
export interface Converter {
  (image: Image): { image: Image; counts: PixelCounts };
}

/**
 * Makes a converter for pictures of `sample`.
 *
 * Alpha changes in the space in which it was declared, before the transfer: a premultiplied linear picture is divided in
 * linear light, a premultiplied sRGB one in sRGB values. Where alpha is 0 a premultiplied colour cannot be divided: it is
 * kept as stored and counted as `glow`. A straight result of a colour above its alpha exceeds 1 and is clipped and
 * counted on the way to integers. Alpha itself has no transfer. Integers are widened and narrowed over the full range.
 */
export function makeConverter(recipe: Recipe, sample: SampleFormat): Converter {
  const curve = transferBetween(recipe.from.transfer, recipe.to.transfer);
  const { sample: out } = recipe.to;
  const toColour = quantiser(out, curve);
  const toAlpha = quantiser(out, (value) => value);
  const tables = sample === 'f32' ? undefined : sampleTables(sample, toColour, toAlpha, isFloat(out));
  const clips = isFloat(sample) && !isFloat(out);

  return (image) => {
    const counts = { ...noCounts(), pixels: image.width * image.height };
    const usesAlpha = hasAlphaChannel(image) && recipe.from.alpha !== 'ignore' && recipe.from.alpha !== 'none';
    const keepsAlpha = usesAlpha && recipe.to.alpha !== 'none';
    const colours = image.channels <= 2 ? 1 : 3;
    const channels = (colours + (keepsAlpha ? 1 : 0)) as Image['channels'];
    const data = makeSamples(out, counts.pixels * channels);
    const premultiplied = usesAlpha && recipe.from.alpha === 'premultiplied';
    // Colour over black is premultiplied colour: with `none` it is asked for and its alpha left out.
    const wantsPremultiplied = usesAlpha && recipe.to.alpha !== 'straight';
    const sameCurve = recipe.from.transfer === recipe.to.transfer;
    const untied = !usesAlpha || (premultiplied === wantsPremultiplied && (sameCurve || !premultiplied));

    if (untied && tables) bySample(image, data, channels, colours, keepsAlpha, tables, clips, counts);
    else byPixel(image, data, channels, { colours, usesAlpha, keepsAlpha, premultiplied, wantsPremultiplied, clips, toAlpha, curve, toColour }, counts);
    if (hasAlphaChannel(image) && !keepsAlpha) counts.alphaDropped = notOpaque(image);
    return { image: { width: image.width, height: image.height, channels, sample: out, data }, counts };
  };
}

interface Tables {
  colour: Samples;
  alpha: Samples;
  /** By code: 0 within 0..1, 1 below, 2 above, 3 not a number. */
  outside: Uint8Array;
}

const codesOf = (sample: SampleFormat): number => (maxCode(sample) ?? 65_535) + 1;

/** The values of every code of a format of 16 bits or fewer. */
function valuesOf(sample: SampleFormat): Float32Array | Float64Array {
  const max = maxCode(sample);
  return max === undefined ? halfTable() : Float64Array.from({ length: max + 1 }, (_, code) => code / max);
}

function sampleTables(sample: SampleFormat, toColour: Quantiser, toAlpha: Quantiser, floats: boolean): Tables {
  const length = codesOf(sample);
  const wide = floats ? new Float32Array(length) : undefined;
  const colour = wide ?? new Uint16Array(length);
  const alpha = wide ? new Float32Array(length) : new Uint16Array(length);
  const outside = new Uint8Array(length);
  valuesOf(sample).forEach((value, code) => {
    colour[code] = toColour(value);
    alpha[code] = toAlpha(value);
    outside[code] = Number.isNaN(value) ? 3 : value > 1 ? 2 : value < 0 ? 1 : 0;
  });
  return { colour, alpha, outside };
}

/** Colour and alpha do not touch each other: every sample is looked up. */
function bySample(
  image: Image,
  data: Samples,
  channels: number,
  colours: number,
  keepsAlpha: boolean,
  { colour, alpha, outside }: Tables,
  clips: boolean,
  counts: PixelCounts,
): void {
  const { data: source, channels: step } = image;
  const seen = [0, 0, 0, 0];
  for (let at = 0, to = 0; at < source.length; at += step, to += channels) {
    for (let channel = 0; channel < colours; channel += 1) {
      const code = source[at + channel]!;
      data[to + channel] = colour[code]!;
      if (clips) seen[outside[code]!]! += 1;
    }
    if (keepsAlpha) data[to + colours] = alpha[source[at + colours]!]!;
  }
  counts.low = seen[1]!;
  counts.high = seen[2]!;
  counts.nan = seen[3]!;
}

interface PixelWork {
  colours: number;
  usesAlpha: boolean;
  keepsAlpha: boolean;
  premultiplied: boolean;
  wantsPremultiplied: boolean;
  clips: boolean;
  toColour: Quantiser;
  toAlpha: Quantiser;
  curve: (value: number) => number;
}

/** Colour is divided or multiplied by its alpha, pixel by pixel. */
function byPixel(image: Image, data: Samples, channels: number, work: PixelWork, counts: PixelCounts): void {
  const { data: source, channels: step } = image;
  const { colours, usesAlpha, keepsAlpha, premultiplied, wantsPremultiplied, toAlpha, curve } = work;
  const values = image.sample === 'f32' ? undefined : valuesOf(image.sample);
  // Premultiplied results are multiplied after the curve, so the curve is not the quantiser's.
  const toColour = wantsPremultiplied ? toAlpha : work.toColour;
  for (let at = 0, to = 0; at < source.length; at += step, to += channels) {
    const stored = usesAlpha ? source[at + colours]! : 1;
    const alpha = usesAlpha && values ? values[stored]! : stored;
    let glows = 0;
    for (let channel = 0; channel < colours; channel += 1) {
      let value = values ? values[source[at + channel]!]! : source[at + channel]!;
      if (premultiplied) {
        if (alpha > 0) value /= alpha;
        else if (value > 0) glows = 1;
      }
      if (wantsPremultiplied) value = premultiplied && !(alpha > 0) ? curve(value) : curve(value) * alpha;
      if (work.clips && !(value >= 0 && value <= 1)) {
        if (value > 1) counts.high += 1;
        else if (value < 0) counts.low += 1;
        else counts.nan += 1;
      }
      data[to + channel] = toColour(value);
    }
    counts.glow += glows;
    if (keepsAlpha) data[to + colours] = toAlpha(alpha);
  }
}

/** How many pixels have an alpha that is not full. */
function notOpaque(image: Image): number {
  const full = maxCode(image.sample) ?? (image.sample === 'f16' ? 0x3c00 : 1);
  let count = 0;
  for (let at = image.channels - 1; at < image.data.length; at += image.channels) if (image.data[at] !== full) count += 1;
  return count;
}
