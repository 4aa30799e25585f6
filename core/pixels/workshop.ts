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
import { finish, makeEnds, markBits, type Marks } from './ending.ts';
import { hasAlphaChannel, makeSamples, notOpaque, type Image } from './image.ts';
import { noKernel, type Kernel } from './kernel.ts';
import { keyOut } from './key.ts';
import { belowPicture, overColour, overPicture } from './layOver.ts';
import { applyLevels, kneeAt, rolledOff } from './levels.ts';
import { noCounts, type PixelCounts, type Recipe } from './recipe.ts';
import { resample, type ResamplePass } from './resample.ts';
import { courseOf, type Course, type Shape, type Step } from './steps.ts';

/** A {@link Converter} that can also say where. */
export interface Workshop {
  (image: Image, more?: { marks?: Marks; under?: Image }): { image: Image; counts: PixelCounts };
}

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
