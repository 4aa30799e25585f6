import { filled } from './filled.ts';
import type { SampleFormat } from '../numbering/source.ts';
import { valueTable } from './canvas.ts';
import { fullAlpha, hasAlphaChannel, isFloat, makeSamples, notOpaque, type Image, type Samples } from './image.ts';
import { heldBetween, outsideKind } from './outside.ts';
import { noKernel, type Kernel, type KernelJob, type Tables } from './kernel.ts';
import { plainQuantiser, quantiser, type Quantiser } from './quantise.ts';
import { noCounts, note, type PixelCounts, type Recipe } from './recipe.ts';
import { transferBetween } from './transfer.ts';

/** A recipe made ready for pictures of one sample format: its tables are worked out once and serve every frame. */
export interface Converter {
  (image: Image, others?: Others): { image: Image; counts: PixelCounts };
}

/** Pictures of other sources that a recipe asks for. */
export interface Others {
  /** What the picture is laid over. */
  under?: Image;
  /** Where its alpha comes from. */
  alphaFrom?: Image;
}

/**
 * Makes a converter for pictures of `sample` that changes depth, alpha and transfer alone, by tables.
 *
 * Alpha changes in the space in which it was declared, before the transfer: a premultiplied linear picture is divided in
 * linear light, a premultiplied sRGB one in sRGB values. Where alpha is 0 a premultiplied colour cannot be divided: it is
 * kept as stored and counted as `glow`. A straight result of a colour above its alpha exceeds 1 and is clipped and
 * counted on the way to integers. Alpha itself has no transfer. Integers are widened and narrowed over the full range.
 */
export function makePlainConverter(
  recipe: Pick<Recipe, 'from' | 'to'>,
  sample: SampleFormat,
  kernel: Kernel = noKernel,
): Converter {
  const curve = transferBetween(recipe.from.transfer, recipe.to.transfer);
  const { sample: out } = recipe.to;
  const held = heldBetween(recipe.from.transfer, recipe.to.transfer, out);
  const toColour = quantiser(out, curve, held);
  const toAlpha = plainQuantiser(out);
  const tables = sample === 'f32' ? undefined : sampleTables(sample, out, toColour, toAlpha, held);
  const heldAlpha = heldBetween('linear', 'linear', out);
  let curvedValues: Float64Array | undefined;
  const curvedOf = ({ length }: ArrayLike<number>) =>
    filled(new Float64Array(length), (code) => curve(tables!.values[code]!));
  const curved = () => (curvedValues ??= curvedOf(tables!.values));

  return (image) => {
    const counts = { ...noCounts(), pixels: image.width * image.height };
    const usesAlpha = hasAlphaChannel(image) && recipe.from.alpha !== 'ignore' && recipe.from.alpha !== 'none';
    const keepsAlpha = usesAlpha && recipe.to.alpha !== 'none';
    const colours = image.channels <= 2 ? 1 : 3;
    const channels = (colours + (keepsAlpha ? 1 : 0)) as Image['channels'];
    const data = (kernel.room ?? makeSamples)(out, counts.pixels * channels);
    const premultiplied = usesAlpha && recipe.from.alpha === 'premultiplied';
    // Colour over black is premultiplied colour: with `none` it is asked for and its alpha left out.
    const wantsPremultiplied = usesAlpha && recipe.to.alpha !== 'straight';
    const sameCurve = recipe.from.transfer === recipe.to.transfer;
    const untied = !usesAlpha || (premultiplied === wantsPremultiplied && (sameCurve || !premultiplied));

    const work = {
      colours,
      usesAlpha,
      keepsAlpha,
      premultiplied,
      wantsPremultiplied,
      tables,
      toAlpha,
      curve,
      toColour,
      // Premultiplied results are looked at after the curve.
      held: wantsPremultiplied ? heldAlpha : held,
    };
    const way = wayOf(image, out, { untied, sameCurve, keepsAlpha, premultiplied, wantsPremultiplied });
    const job = tables && way && { ...work, way, source: image.data, data, step: image.channels, tables, curved };
    const done = job !== undefined && kernel({ ...job, opaque: fullAlpha(image), steps: toColour.steps }, counts);
    if (!done && untied && tables) bySample(image, data, keepsAlpha, tables, counts);
    else if (!done) byPixel(image, data, work, counts);
    if (hasAlphaChannel(image) && !keepsAlpha) counts.alphaDropped = notOpaque(image);
    return { image: { width: image.width, height: image.height, channels, sample: out, data }, counts };
  };
}

/** Which of the compiled ways is that of a conversion; undefined where none is. */
function wayOf(
  { sample, channels }: Image,
  out: SampleFormat,
  how: {
    untied: boolean;
    sameCurve: boolean;
    keepsAlpha: boolean;
    premultiplied: boolean;
    wantsPremultiplied: boolean;
  },
): KernelJob['way'] | undefined {
  if (sample === 'f32' || out === 'f32') return undefined;
  const keepsAll = how.keepsAlpha || channels === 1 || channels === 3;
  if (how.untied) return sample === 'u16' && out === 'u8' && how.sameCurve && keepsAll ? 'narrow' : 'lookup';
  if (how.premultiplied) return how.wantsPremultiplied || isFloat(out) ? undefined : 'divide';
  return 'multiply';
}

function sampleTables(
  sample: Exclude<SampleFormat, 'f32'>,
  out: SampleFormat,
  toColour: Quantiser,
  toAlpha: Quantiser,
  held: readonly [number, number],
): Tables {
  const values = valueTable(sample)!;
  const { length } = values;
  const colour = makeSamples(out, length);
  const alpha = makeSamples(out, length);
  const outside = new Uint8Array(length);
  values.forEach((value, code) => {
    colour[code] = toColour(value);
    alpha[code] = toAlpha(value);
    outside[code] = outsideKind(value, held);
  });
  const first = outside.findIndex((kind) => kind !== 0);
  return { values, colour, alpha, outside, safe: (first < 0 ? length : first) - 1 };
}

/** Colour and alpha do not touch each other: every sample is looked up. One loop per layout, since this is where time goes. */
function bySample(image: Image, data: Samples, keepsAlpha: boolean, tables: Tables, counts: PixelCounts): void {
  const { data: source, channels: step } = image;
  const { colour, alpha } = tables;
  const end = source.length;
  if (step === 4 && keepsAlpha) {
    for (let at = 0; at < end; at += 4) {
      data[at] = colour[source[at]!]!;
      data[at + 1] = colour[source[at + 1]!]!;
      data[at + 2] = colour[source[at + 2]!]!;
      data[at + 3] = alpha[source[at + 3]!]!;
    }
  } else if (step === 4) {
    for (let at = 0, to = 0; at < end; at += 4, to += 3) {
      data[to] = colour[source[at]!]!;
      data[to + 1] = colour[source[at + 1]!]!;
      data[to + 2] = colour[source[at + 2]!]!;
    }
  } else if (step === 2 && keepsAlpha) {
    for (let at = 0; at < end; at += 2) {
      data[at] = colour[source[at]!]!;
      data[at + 1] = alpha[source[at + 1]!]!;
    }
  } else if (step === 2) {
    for (let at = 0, to = 0; at < end; at += 2, to += 1) data[to] = colour[source[at]!]!;
  } else {
    for (let at = 0; at < end; at += 1) data[at] = colour[source[at]!]!;
  }
  if (tables.safe < tables.outside.length - 1) countOutside(image, tables, counts);
}

/** Counts the colour samples that the result cannot hold. */
function countOutside(image: Image, { outside, safe }: Tables, counts: PixelCounts): void {
  const { data, channels } = image;
  const colours = channels <= 2 ? 1 : 3;
  for (let at = 0; at < data.length; at += channels) {
    for (let channel = 0; channel < colours; channel += 1) {
      const code = data[at + channel]!;
      if (code > safe) note(counts, outside[code]!, channel);
    }
  }
}

interface PixelWork {
  colours: number;
  usesAlpha: boolean;
  keepsAlpha: boolean;
  premultiplied: boolean;
  wantsPremultiplied: boolean;
  /** Absent for float samples. */
  tables?: Tables;
  toColour: Quantiser;
  toAlpha: Quantiser;
  curve: (value: number) => number;
  /** The values that the result can hold. */
  held: readonly [number, number];
}

/**
 * Colour is divided or multiplied by its alpha, pixel by pixel. Opaque pixels, where neither changes anything, and empty
 * ones are most of a picture: they take the tables.
 */
function byPixel(image: Image, data: Samples, work: PixelWork, counts: PixelCounts): void {
  const { data: source, channels: step } = image;
  const { colours, usesAlpha, keepsAlpha, premultiplied, wantsPremultiplied, tables, toAlpha, curve, held } = work;
  const values = tables?.values;
  const opaque = fullAlpha(image);
  // Premultiplied results are multiplied after the curve, so the curve is not the quantiser's.
  const toColour = wantsPremultiplied ? toAlpha : work.toColour;
  const channels = colours + (keepsAlpha ? 1 : 0);
  const [least, most] = held;
  let { glow } = counts;
  for (let at = 0, to = 0; at < source.length; at += step, to += channels) {
    const stored = usesAlpha ? source[at + colours]! : opaque;
    if (tables && (stored === opaque || isEmpty(source, at, step))) {
      const { colour, outside } = tables;
      for (let channel = 0; channel < colours; channel += 1) {
        const code = source[at + channel]!;
        data[to + channel] = colour[code]!;
        if (outside[code] !== 0) note(counts, outside[code]!, channel);
      }
      if (keepsAlpha) data[to + colours] = tables.alpha[stored]!;
      continue;
    }
    const alpha = values ? values[stored]! : stored;
    let glows = 0;
    for (let channel = 0; channel < colours; channel += 1) {
      let value = values ? values[source[at + channel]!]! : source[at + channel]!;
      if (premultiplied) {
        if (alpha > 0) value /= alpha;
        else if (value > 0 && !wantsPremultiplied) glows = 1;
      }
      if (wantsPremultiplied) value = premultiplied && !(alpha > 0) ? curve(value) : curve(value) * alpha;
      if (!(value >= least && value <= most)) note(counts, outsideKind(value, held), channel);
      data[to + channel] = toColour(value);
    }
    glow += glows;
    if (keepsAlpha) data[to + colours] = toAlpha(alpha);
  }
  counts.glow = glow;
}

/** Whether all samples of a pixel are 0. */
function isEmpty(source: Samples, at: number, step: number): boolean {
  for (let channel = 0; channel < step; channel += 1) if (source[at + channel] !== 0) return false;
  return true;
}
