import type { DeclaredTransfer } from './colourNames.ts';
import {
  canvasAlpha,
  eachColour,
  offColour,
  toCanvas,
  toLightOf,
  toPremultiplied,
  toPrimaries,
  toStraight,
  toTransfer,
  type Canvas,
} from './canvas.ts';
import { dithererOf } from './dither.ts';
import { hasAlphaChannel, isFloat, makeSamples, maxCode, notOpaque, type Image } from './image.ts';
import { noKernel, type Kernel } from './kernel.ts';
import { keyOut } from './key.ts';
import { belowPicture, overColour, overPicture } from './layOver.ts';
import { applyLevels, kneeAt, rolledOff } from './levels.ts';
import { heldBetween, outsideKind } from './outside.ts';
import type { Picture } from './picture.ts';
import { plainQuantiser, quantiser, type Quantiser } from './quantise.ts';
import { noCounts, note, type PixelCounts, type Recipe } from './recipe.ts';
import { resample, type ResamplePass } from './resample.ts';
import { courseOf, type Course, type Shape, type Step } from './steps.ts';
import { quickly, transferBetween, type Quick } from './transfer.ts';

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

/** One kind of step. */
type StepOf<K extends Step['do']> = Extract<Step, { do: K }>;

/** How each step works a canvas, in place or as another canvas. */
const onCanvas: { [K in Step['do']]: (canvas: Canvas, step: StepOf<K>, job: Job) => Canvas | void } = {
  curve: (canvas, { to }) => toTransfer(canvas, to),
  divide: toStraight,
  multiply: toPremultiplied,
  'off-colour': (canvas, { matte }) => offColour(canvas, matte),
  key: (canvas, { key }) => keyOut(canvas, key),
  resize: (canvas, { size, filter }, { pass }) => ({ ...canvas, ...resample(canvas, size, filter, pass) }),
  pad: padded,
  'count-clear'(canvas, _step, { counts, marks }) {
    if (marks) markable(canvas, marks);
    counts.alphaDropped += partlyClear(canvas, marks);
  },
  'over-colour': (canvas, { colour }) => overColour(canvas, colour),
  'over-picture': (canvas, { over }, { recipe, under, pass }) =>
    overPicture(canvas, belowPicture(canvas, under, over, recipe, pass)),
  scale: (canvas, { factor }) => eachColour(canvas, (value) => value * factor),
  levels: (canvas, { levels }) => applyLevels(canvas, levels),
  matrix: (canvas, { matrix }, { recipe }) => toPrimaries(canvas, recipe.to.primaries, matrix),
  'roll-off': (canvas, _step, { counts }) => rollOff(canvas, counts),
};

function carryOut(canvas: Canvas, step: Step, job: Job): Canvas {
  const work = onCanvas[step.do] as (canvas: Canvas, step: Step, job: Job) => Canvas | void;
  return work(canvas, step, job) ?? canvas;
}

/**
 * A converter that works pictures in floats, step by step in the design's order. It takes pictures that are turned and cropped
 * already. Alpha is divided and multiplied in the space in which colours are stored or in light; where it is 0, colour stays as it is.
 */
export function makeWorkshop(recipe: Recipe, kernel: Kernel = noKernel): Workshop {
  const { from, to } = recipe;
  const endOf = makeEnds(recipe);
  let known: { shape: Shape; course: Course } | undefined;
  const courseFor = ({ width, height, channels, sample }: Image): Course => {
    const { shape } = known ?? {};
    const isKnown = shape?.width === width && shape.height === height && shape.channels === channels;
    if (!known || !isKnown || shape.sample !== sample) {
      const next = { width, height, channels, sample };
      known = { shape: next, course: courseOf(recipe, next) };
    }
    return known.course;
  };
  return (image, { marks, under } = {}) => {
    const course = courseFor(image);
    const counts = { ...noCounts(), pixels: image.width * image.height };
    const start = { transfer: from.transfer, primaries: from.primaries, alpha: canvasAlpha(from.alpha) };
    const ignored = hasAlphaChannel(image) && start.alpha === 'none' ? notOpaque(image) : 0;
    const compiled = marks ? undefined : kernel.work?.({ image, recipe, course, under, counts, endOf });
    if (compiled) {
      counts.alphaDropped += ignored;
      return { image: compiled, counts };
    }
    let canvas = course.light ? toLightOf(image, start, to.primaries, course.light) : toCanvas(image, start);
    const job: Job = { recipe, counts, marks, under, pass: kernel.pass };
    for (const step of course.steps) canvas = carryOut(canvas, step, job);
    if (marks) markable(canvas, marks);
    const made = finish(canvas, endOf(canvas), counts, marks, kernel.room ?? makeSamples);
    counts.alphaDropped += ignored;
    return { image: made, counts };
  };
}

function padded(canvas: Canvas, { size, left, top, isOpaque }: StepOf<'pad'>): Canvas {
  const { stride, width } = canvas;
  const data = new Float32Array(size.width * size.height * stride);
  // Without alpha what is added is opaque black.
  if (isOpaque) for (let at = stride - 1; at < data.length; at += stride) data[at] = 1;
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
  eachColour(canvas, (light) => {
    if (light > 1) counts.rolled += 1;
    return light > kneeAt ? rolledOff(light) : light;
  });
}

/** Alpha, transfer and depth out of a canvas: what is done with its alpha, and what its colours are looked up in. */
export interface End {
  to: Recipe['to'];
  /** The canvas's own. */
  transfer: DeclaredTransfer;
  colours: number;
  /** Whether there is any alpha, it is written, and colours are multiplied or divided by it. */
  usesAlpha: boolean;
  keepsAlpha: boolean;
  multiplies: boolean;
  divides: boolean;
  channels: Image['channels'];
  /** From the canvas's light to what is stored. */
  curve: (value: number) => number;
  toColour: Quantiser;
  /** What the result holds: of values before the curve, after it where they are multiplied. */
  held: readonly [number, number];
  /** How far a value may be beyond that and is called held all the same. */
  slack: number;
  /** Absent where whole codes are rounded to, and for floats. */
  dither: { kind: Exclude<Picture['dither'], 'none'>; curve: Quick; max: number } | undefined;
}

/** Makes what ends a canvas, by its alpha and transfer; tables are kept. */
function makeEnds({ picture, to }: Recipe): (canvas: Pick<Canvas, 'alpha' | 'transfer' | 'colours'>) => End {
  const quantisers = new Map<DeclaredTransfer, Pick<End, 'curve' | 'toColour' | 'held'>>();
  const dithered = new Map<DeclaredTransfer, Quick>();
  const heldAlpha = heldBetween('linear', 'linear', to.sample);
  const max = maxCode(to.sample);
  return ({ alpha, transfer, colours }) => {
    let known = quantisers.get(transfer);
    if (!known) {
      const curve = transferBetween(transfer, to.transfer);
      const held = heldBetween(transfer, to.transfer, to.sample);
      quantisers.set(transfer, (known = { curve, toColour: quantiser(to.sample, curve, held), held }));
    }
    let dither: End['dither'];
    if (picture.dither !== 'none' && max !== undefined) {
      // Between two codes a dither decides: the last bits of a curve do not.
      let curve = dithered.get(transfer);
      if (!curve) dithered.set(transfer, (curve = quickly(known.curve)));
      dither = { kind: picture.dither, curve, max };
    }
    const usesAlpha = alpha !== 'none';
    const keepsAlpha = usesAlpha && to.alpha !== 'none';
    const multiplies = usesAlpha && to.alpha !== 'straight';
    return {
      to,
      transfer,
      colours,
      usesAlpha,
      keepsAlpha,
      multiplies,
      divides: alpha === 'premultiplied',
      channels: (to.alpha === 'matte' ? 1 : colours + (keepsAlpha ? 1 : 0)) as Image['channels'],
      ...known,
      held: multiplies ? heldAlpha : known.held,
      slack: isFloat(to.sample) ? 0 : rounding,
      dither,
    };
  };
}

const mark = (marks: Marks | undefined, at: number, bits: number): void => {
  if (marks) marks.bits[at]! |= bits;
};

/** A canvas as it is stored. */
function finish(
  canvas: Canvas,
  end: End,
  counts: PixelCounts,
  marks: Marks | undefined,
  room: typeof makeSamples,
): Image {
  const { width, height, data: source, stride } = canvas;
  const { to, colours, usesAlpha, keepsAlpha, multiplies, divides, channels, toColour, held, slack } = end;
  const toAlpha = plainQuantiser(to.sample);
  if (to.alpha === 'matte') return matteOf(canvas, to.sample, toAlpha);
  const matte = to.matte ?? [0, 0, 0];
  const curve = end.dither?.curve ?? end.curve;
  const max = end.dither?.max ?? 1;
  const dither = end.dither && dithererOf(end.dither.kind, width, max);
  const [least, most] = held;
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
          const kind = outsideKind(value, held);
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
