import type { DeclaredTransfer } from './colourNames.ts';
import {
  canvasAlpha,
  offColour,
  eachColour,
  toCanvas,
  toLightOf,
  toPremultiplied,
  toPrimaries,
  toStraight,
  toTransfer,
  type Canvas,
} from './canvas.ts';
import { dithererOf } from './dither.ts';
import { padding } from './geometry.ts';
import { hasAlphaChannel, isFloat, makeSamples, maxCode, notOpaque, type Image } from './image.ts';
import { keyOut } from './key.ts';
import { layOver } from './layOver.ts';
import { applyLevels, kneeAt, rolledOff } from './levels.ts';
import { heldBetween, outsideKind } from './outside.ts';
import {
  operationsOf,
  resizedSize,
  sizeAfter,
  turnedAspect,
  type OperationKey,
  type Picture,
  type Size,
} from './picture.ts';
import { primariesBetween } from './primaries.ts';
import { plainQuantiser, quantiser } from './quantise.ts';
import { noCounts, note, type PixelCounts, type Recipe } from './recipe.ts';
import { noKernel, type Kernel } from './kernel.ts';
import { resample, type ResamplePass } from './resample.ts';
import { quickly, transferBetween } from './transfer.ts';

/** Float arithmetic leaves a 1 this near to 1; no more than that is called clipped. */
const rounding = 1e-6;

/** Where something is lost, if that is asked for: a byte a pixel of the result, filled in. */
export interface Marks {
  bits: Uint8Array;
}

/** A {@link Converter} that can also say where. */
export interface Workshop {
  (image: Image, more?: { marks?: Marks; under?: Image }): { image: Image; counts: PixelCounts };
}

/** Bits of a pixel's mark: what of it is lost. */
export const markBits = { low: 1, high: 2, notNumber: 4, alpha: 8 } as const;

/** The bit of each {@link outsideKind}. */
const bitOfKind = [0, markBits.low, markBits.high, markBits.notNumber, markBits.notNumber] as const;

/** What a step may look at and count into. */
interface Job {
  recipe: Recipe;
  counts: PixelCounts;
  marks?: Marks;
  under?: Image;
  pass: ResamplePass | undefined;
}

/** A step on a canvas, in place or as another canvas. */
type Step<K extends OperationKey> = (canvas: Canvas, value: NonNullable<Picture[K]>, job: Job) => Canvas | void;

/** How each operation works a canvas; undefined for those that are done before it, on samples or in reading, or after it, in rounding. */
const onCanvas: { [K in OperationKey]: Step<K> | undefined } = {
  layer: undefined,
  window: undefined,
  alphaFrom: undefined,
  turn: undefined,
  flip: undefined,
  crop: undefined,
  key(canvas, key) {
    toStraight(canvas);
    keyOut(canvas, key);
  },
  resize: (canvas, resize, { recipe, pass }) => (resize.filter === 'nearest' ? canvas : resized(canvas, recipe, pass)),
  pad: (canvas, _pad, { recipe }) => padded(canvas, recipe.picture),
  over(canvas, _over, { recipe, counts, marks, under }) {
    if (marks) markable(canvas, marks);
    if (canvas.alpha !== 'none') counts.alphaDropped += partlyClear(canvas, marks);
    layOver(canvas, recipe, under);
  },
  levels: (canvas, levels) => applyLevels(canvas, levels),
  highlights: undefined,
  dither: undefined,
};

/** Steps that are done once primaries are those of the result. */
const onLight: { [K in OperationKey]?: Step<K> } = {
  highlights: (canvas, _how, { counts }) => rollOff(canvas, counts),
};

/**
 * A converter that works pictures in floats, step by step in the design's order. It takes pictures that are turned and cropped
 * already. Alpha is divided and multiplied in the space in which colours are stored; where it is 0, colour stays as it is.
 */
export function makeWorkshop(recipe: Recipe, kernel: Kernel = noKernel): Workshop {
  const { from, picture, to } = recipe;
  const matrix = primariesBetween(from.primaries, to.primaries);
  const finish = makeFinish(recipe, kernel.room ?? makeSamples);
  const set = operationsOf(picture) as { key: OperationKey; value: unknown }[] as { key: OperationKey; value: never }[];
  const isUnworked = set.every(({ key }) => onCanvas[key] === undefined);
  return (image, { marks, under } = {}) => {
    const counts = { ...noCounts(), pixels: image.width * image.height };
    const alpha = canvasAlpha(from.alpha);
    const straight = matrix && isUnworked && toLightOf(image, { transfer: from.transfer, alpha }, to.primaries, matrix);
    let canvas = straight || toCanvas(image, { transfer: from.transfer, primaries: from.primaries, alpha });
    if (from.alpha === 'on-colour') offColour(canvas, from.matte ?? [0, 0, 0]);
    const ignored = hasAlphaChannel(image) && canvas.alpha === 'none' ? notOpaque(image) : 0;
    const job: Job = { recipe, counts, marks, under, pass: kernel.pass };
    for (const { key, value } of set) canvas = onCanvas[key]?.(canvas, value, job) ?? canvas;
    if (matrix && !straight) {
      toTransfer(canvas, 'linear');
      toPrimaries(canvas, to.primaries, matrix);
    }
    for (const { key, value } of set) canvas = onLight[key]?.(canvas, value, job) ?? canvas;
    if (marks) markable(canvas, marks);
    const made = finish(canvas, counts, marks);
    counts.alphaDropped += ignored;
    return { image: made, counts };
  };
}

/** Colours with alpha are mixed premultiplied, so that what is clear does not bleed in. */
function resized(canvas: Canvas, { from, picture }: Recipe, pass?: ResamplePass): Canvas {
  const { resize } = picture;
  const { filter, light } = resize!;
  const size = resizedSize(canvas, resize!, turnedAspect(from.pixelAspect, picture));
  if (filter === 'nearest') return canvas;
  const { transfer } = canvas;
  if (light === 'linear') toTransfer(canvas, 'linear');
  toPremultiplied(canvas);
  const result: Canvas = { ...canvas, ...resample(canvas, size, filter, pass) };
  if (light === 'linear') toTransfer(result, transfer);
  return result;
}

function padded(canvas: Canvas, picture: Picture): Canvas {
  const size: Size = sizeAfter(canvas, { ...picture, turn: 0, crop: null, resize: null });
  const { left, top } = padding(canvas, size, picture.pad!.where);
  const { stride, width } = canvas;
  const data = new Float32Array(size.width * size.height * stride);
  // Without alpha what is added is opaque black.
  if (canvas.alpha === 'none') for (let at = stride - 1; at < data.length; at += stride) data[at] = 1;
  for (let y = 0; y < canvas.height; y += 1) {
    const row = canvas.data.subarray(y * width * stride, (y + 1) * width * stride);
    data.set(row, ((top + y) * size.width + left) * stride);
  }
  return { ...canvas, ...size, data };
}

/** Makes room for a mark of every pixel of a canvas, which has its last size now. */
function markable({ width, height }: Canvas, marks: Marks): void {
  if (marks.bits.length !== width * height) marks.bits = new Uint8Array(width * height);
}

/** How many pixels have an alpha that is not 1. */
function partlyClear({ data, stride }: Canvas, marks?: Marks): number {
  let count = 0;
  for (let at = stride - 1, pixel = 0; at < data.length; at += stride, pixel += 1) {
    if (data[at] === 1) continue;
    count += 1;
    if (marks) marks.bits[pixel]! |= markBits.alpha;
  }
  return count;
}

function rollOff(canvas: Canvas, counts: PixelCounts): void {
  toTransfer(canvas, 'linear');
  toStraight(canvas);
  eachColour(canvas, (light) => {
    if (light > 1) counts.rolled += 1;
    return light > kneeAt ? rolledOff(light) : light;
  });
}

/** From a canvas's light to what is stored: kept by the transfer that the canvas has. */
function makeCurves(to: Recipe['to'], kind: Picture['dither']) {
  const quantisers = new Map<DeclaredTransfer, ReturnType<typeof quantiser>>();
  const dithered = new Map<DeclaredTransfer, (value: number) => number>();
  const max = maxCode(to.sample);
  return (transfer: DeclaredTransfer, width: number) => {
    const exactly = transferBetween(transfer, to.transfer);
    const held = heldBetween(transfer, to.transfer, to.sample);
    let toColour = quantisers.get(transfer);
    if (!toColour) quantisers.set(transfer, (toColour = quantiser(to.sample, exactly, held)));
    if (kind === 'none' || max === undefined) return { curve: exactly, toColour, held, dither: undefined, max: 1 };
    // Between two codes a dither decides: the last bits of a curve do not.
    let curve = dithered.get(transfer);
    if (!curve) dithered.set(transfer, (curve = quickly(exactly)));
    return { curve, toColour, held, dither: dithererOf(kind, width, max), max };
  };
}

const mark = (marks: Marks | undefined, at: number, bits: number): void => {
  if (marks) marks.bits[at]! |= bits;
};

/** What is done with a canvas's alpha: whether there is any, it is written, colours are multiplied or divided by it. */
function alphaOut({ alpha, stride }: Canvas, wanted: Recipe['to']['alpha']) {
  const usesAlpha = alpha !== 'none';
  const keepsAlpha = usesAlpha && wanted !== 'none';
  return {
    usesAlpha,
    keepsAlpha,
    multiplies: usesAlpha && wanted !== 'straight',
    divides: alpha === 'premultiplied',
    channels: (stride - 1 + (keepsAlpha ? 1 : 0)) as Image['channels'],
  };
}

/** Alpha, transfer and depth out. */
function makeFinish(
  { picture, to }: Recipe,
  room: typeof makeSamples,
): (canvas: Canvas, counts: PixelCounts, marks?: Marks) => Image {
  const toAlpha = plainQuantiser(to.sample);
  const heldAlpha = heldBetween('linear', 'linear', to.sample);
  const curveOut = makeCurves(to, picture.dither);
  const matte = to.matte ?? [0, 0, 0];
  const slack = isFloat(to.sample) ? 0 : rounding;

  return (canvas, counts, marks) => {
    const { width, height, data: source, stride } = canvas;
    const colours = stride - 1;
    if (to.alpha === 'matte') return matteOf(canvas, to.sample, toAlpha);
    const { usesAlpha, keepsAlpha, multiplies, divides, channels } = alphaOut(canvas, to.alpha);
    const { curve, toColour, held, dither, max } = curveOut(canvas.transfer, width);
    const [least, most] = multiplies ? heldAlpha : held;
    const data = room(to.sample, width * height * channels);

    for (let y = 0, at = 0, out = 0; y < height; y += 1) {
      for (let x = 0; x < width; x += 1, at += stride, out += channels) {
        const alpha = source[at + colours]!;
        const share = divides && alpha > 0 ? alpha : 1;
        const factor = divides && !(alpha > 0) ? 1 : alpha;
        let glows = false;
        for (let channel = 0; channel < colours; channel += 1) {
          const stored = source[at + channel]! / share;
          glows ||= stored > 0;
          const value = multiplies ? curve(stored) * factor + (1 - alpha) * matte[channel]! : stored;
          if (!(value >= least - slack && value <= most + slack)) {
            const kind = outsideKind(value, [least, most]);
            note(counts, kind, channel);
            mark(marks, y * width + x, bitOfKind[kind]);
          }
          if (dither) {
            const encoded = multiplies ? value : curve(stored);
            const bounded = encoded > 0 ? Math.min(1, encoded) : 0;
            data[out + channel] = dither(bounded * max, channel, x, y);
          } else data[out + channel] = multiplies ? toAlpha(value) : toColour(value);
        }
        if (glows && divides && !multiplies && !(alpha > 0)) counts.glow += 1;
        if (keepsAlpha) data[out + colours] = toAlpha(alpha);
        else if (usesAlpha && alpha !== 1) {
          counts.alphaDropped += 1;
          mark(marks, y * width + x, markBits.alpha);
        }
      }
    }
    return { width, height, channels, sample: to.sample, data };
  };
}

/** Alpha alone, as grey; 1 throughout where the picture has none. */
function matteOf(
  { width, height, stride, data: source }: Canvas,
  sample: Image['sample'],
  toAlpha: (value: number) => number,
): Image {
  const data = makeSamples(sample, width * height);
  for (let at = 0; at < data.length; at += 1) data[at] = toAlpha(source[at * stride + stride - 1]!);
  return { width, height, channels: 1, sample, data };
}
