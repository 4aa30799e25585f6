import { filled, hasAlphaChannel, maxCode, type Image } from '@shale/core';
import {
  belowPicture,
  blueNoiseThresholds,
  canvasAlpha,
  lightTable,
  orderedThresholds,
  quickToLinear,
  sightOf,
  strongest,
  tapsFor,
  valueTable,
  type Course,
  type End,
  type Kernel,
  type Size,
  type Step,
  type WorkJob,
} from '@shale/core/compiled.ts';
import { roomFor } from '../room.ts';
import { pixelAddon, stepKinds, storedNumbers, transferNumbers, type CompiledJob, type CompiledStep } from './addon.ts';
import { compiledPass } from './pass.ts';

/** All of a job that is the same for every picture of a course. */
interface Prepared {
  steps: CompiledStep[];
  tables: Pick<CompiledJob, 'values' | 'alphaValues' | 'light' | 'matrix'>;
  /** Of the result. */
  size: Size;
  /** Steps of the course that are looked up with the codes instead. */
  inTables: number;
  /** By the alpha with which the canvas ends. */
  ends: Map<string, { end: End; compiled: CompiledJob['end'] }>;
}

const prepared = new WeakMap<Course, Prepared>();

/** The picture below as it was worked last, by what it was worked from: it is often the same for many frames. */
const belowOf = new WeakMap<Image, { step: Step; data: Float32Array }>();

/** Core's work on a canvas, compiled: the same steps, row by row. */
export const compiledWork: NonNullable<Kernel['work']> = (job) => {
  const { image, recipe, course, counts } = job;
  const { width, height, channels, sample } = image;
  let ready = prepared.get(course);
  if (!ready) prepared.set(course, (ready = prepare(job)));
  const laid = course.steps.findIndex((step) => step.do === 'over-picture');
  const steps = laid < 0 ? ready.steps : [...ready.steps];
  const at = laid - ready.inTables;
  if (laid >= 0) steps[at] = { ...steps[at]!, below: below(job, laid) };
  const run = (alpha: Course['alpha']) => {
    const { end, compiled } = endOf(job, ready, alpha);
    const data = roomFor(recipe.to.sample, ready.size.width * ready.size.height * end.channels);
    const told = pixelAddon.work({
      width,
      height,
      channels,
      hasAlpha: hasAlphaChannel(image) && canvasAlpha(recipe.from.alpha) !== 'none',
      source: image.data,
      bytes: sample === 'u8' ? 1 : sample === 'f32' ? 4 : 2,
      ...ready.tables,
      steps,
      end: compiled,
      data,
    });
    return { told, made: { ...ready.size, channels: end.channels, sample: recipe.to.sample, data } satisfies Image };
  };
  // What is laid over a picture is opaque as a rule, and has no alpha then; where it is not, it is worked again with it.
  let { told, made } = run(laid < 0 ? course.alpha : 'none');
  if (laid >= 0 && course.alpha !== 'none' && told[5] === 0) ({ told, made } = run(course.alpha));
  const [nan, infinite, glow, rolled, alphaDropped, , ...outside] = told;
  counts.nan += nan;
  counts.infinite += infinite;
  counts.glow += glow;
  counts.rolled += rolled;
  counts.alphaDropped += alphaDropped;
  for (let channel = 0; channel < 3; channel += 1) {
    counts.low[channel]! += outside[channel]!;
    counts.high[channel]! += outside[3 + channel]!;
  }
  return made;
};

function below({ image, recipe, course, under }: WorkJob, at: number): Float32Array {
  const step = course.steps[at]!;
  if (step.do !== 'over-picture') throw new Error('it is not laid over a picture');
  const known = under && belowOf.get(under);
  if (known?.step === step) return known.data;
  const colours = image.channels <= 2 ? 1 : 3;
  const canvas = { ...step.size, colours, transfer: step.transfer, primaries: recipe.from.primaries } as const;
  const data = belowPicture(canvas, under, step.over, recipe, compiledPass);
  belowOf.set(under!, { step, data });
  return data;
}

function prepare({ image, recipe, course }: WorkJob): Prepared {
  const { from } = recipe;
  let size: Size = { width: image.width, height: image.height };
  const steps = course.steps.map((step): CompiledStep => {
    const compiled = compiledStep(step, size);
    if (compiled.width !== undefined) size = { width: compiled.width, height: compiled.height! };
    return compiled;
  });
  const tables: Prepared['tables'] = {};
  let inTables = 0;
  const values = valueTable(image.sample);
  if (values) {
    tables.alphaValues = Float32Array.from(values);
    tables.values = tables.alphaValues;
    if (course.light) {
      tables.light = lightTable(image.sample, from.transfer)!;
      tables.matrix = Float64Array.from(course.light.flat());
    }
    // A curve that every code goes through first is looked up with the code.
    const [first] = course.steps;
    if (first?.do === 'curve' && !first.isShared && first.to === 'linear') {
      const curve = quickToLinear(first.from);
      const { alphaValues } = tables;
      tables.values = filled(new Float32Array(alphaValues.length), (code) => curve(alphaValues[code]!));
      inTables = 1;
    }
  }
  return { steps: steps.slice(inTables), tables, inTables, size, ends: new Map() };
}

function compiledStep(step: Step, side: Size): CompiledStep {
  const kind = stepKinds.indexOf(step.do);
  const numbers = (...all: number[]) => ({ kind, numbers: Float64Array.from(all) });
  switch (step.do) {
    case 'curve': {
      const curve = { from: transferNumbers[step.from], to: transferNumbers[step.to], isShared: step.isShared };
      const { known } = step.to === 'linear' ? quickToLinear(step.from) : {};
      return { kind, ...curve, ...(known ? { known } : {}) };
    }
    case 'off-colour':
      return numbers(...step.matte);
    case 'key': {
      const { colour, tolerance, softness, spill } = step.key;
      const { known } = sightOf(step.transfer);
      const seen = { from: transferNumbers[step.transfer], to: transferNumbers.srgb, ...(known ? { known } : {}) };
      return { ...numbers(...colour, tolerance, softness, spill, strongest(colour)), ...seen };
    }
    case 'resize': {
      const { width, height } = step.size;
      const across = width === side.width ? undefined : tapsFor(side.width, width, step.filter);
      const down = height === side.height ? undefined : tapsFor(side.height, height, step.filter);
      return {
        kind,
        width,
        height,
        ...(across ? { acrossFirst: across.first, acrossWeights: across.weights } : {}),
        ...(down ? { downFirst: down.first, downWeights: down.weights } : {}),
      };
    }
    case 'pad':
      return { ...numbers(step.left, step.top, step.isOpaque ? 1 : 0), ...step.size };
    case 'over-colour':
      return numbers(...step.colour);
    case 'scale':
      return numbers(step.factor);
    case 'levels':
      return numbers(...step.levels.black, ...step.levels.white, ...step.levels.gamma);
    case 'matrix':
      return numbers(...step.matrix.flat());
    default:
      return { kind };
  }
}

function endOf(job: WorkJob, { ends }: Prepared, alpha: Course['alpha']) {
  let known = ends.get(alpha);
  if (known) return known;
  const { course, recipe, image } = job;
  const end = job.endOf({ alpha, transfer: course.transfer, colours: image.channels <= 2 ? 1 : 3 });
  const { steps } = end.toColour;
  const thresholds = end.dither?.kind === 'ordered' ? orderedThresholds() : end.dither && blueNoiseThresholds();
  const compiled: CompiledJob['end'] = {
    sample: storedNumbers[recipe.to.sample],
    max: maxCode(recipe.to.sample) ?? 0,
    usesAlpha: end.usesAlpha,
    keepsAlpha: end.keepsAlpha,
    multiplies: end.multiplies,
    divides: end.divides,
    isMatte: recipe.to.alpha === 'matte',
    from: transferNumbers[course.transfer],
    to: transferNumbers[recipe.to.transfer],
    matte: Float64Array.from(recipe.to.matte ?? [0, 0, 0]),
    least: end.held[0],
    most: end.held[1],
    slack: end.slack,
    ...(steps
      ? { bounds: steps.bounds, guesses: steps.guesses, domainLeast: steps.least, domainMost: steps.most }
      : {}),
    dither: end.dither ? (end.dither.kind === 'diffusion' ? 2 : 1) : 0,
    ...(end.dither ? { known: end.dither.curve.known } : {}),
    ...(thresholds ? { thresholds: thresholds.values, side: thresholds.side } : {}),
  };
  ends.set(alpha, (known = { end, compiled }));
  return known;
}
