import fc from 'fast-check';
import {
  halfTable,
  makeConverter,
  numberToHalf,
  untouched,
  type Image,
  type PixelCounts,
  type Recipe,
  type SampleFormat,
} from '@shale/core';
import { isLong } from '@shale/core/testRuns.ts';
import { compiledKernel } from '../kernels.ts';

const transfers = ['srgb', 'linear', 'bt709', 'gamma-2.2', 'gamma-2.4', 'film-log', 'pq', 'hlg'] as const;
const primaries = ['bt709', 'p3', 'bt2020', 'acescg'] as const;
const depths = ['u8', 'u10', 'u12', 'u16', 'f16', 'f32'] as const;
const mostOf = { u8: 255, u10: 1023, u12: 4095, u16: 65_535 } as Record<SampleFormat, number>;

const unit = fc.double({ min: 0, max: 1, noNaN: true });
const colour = fc.tuple(unit, unit, unit);
const rarely = <T>(what: fc.Arbitrary<T>) => fc.oneof({ weight: 2, arbitrary: fc.constant(null) }, what);

/** A picture of slopes and noise, with clear, full and partly clear alpha, and in floats values below 0 and above 1. */
function drawn(width: number, height: number, channels: Image['channels'], sample: SampleFormat, seed: number): Image {
  let state = seed >>> 0;
  const next = () => ((state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) >>> 8) / 2 ** 24;
  const max = mostOf[sample];
  const values = Array.from({ length: width * height * channels }, (_, at) => {
    const isAlpha = channels % 2 === 0 && at % channels === channels - 1;
    if (isAlpha) return [0, 1, 1, next()][Math.floor(next() * 4)]!;
    const value = next();
    return max === undefined && next() < 0.2 ? value * 6 - 1 : value;
  });
  const size = { width, height, channels, sample };
  if (sample === 'f32') return { ...size, data: Float32Array.from(values) };
  if (sample === 'f16') return { ...size, data: Uint16Array.from(values, numberToHalf) };
  const codes = values.map((value) => Math.round(value * max));
  return { ...size, data: sample === 'u8' ? Uint8Array.from(codes) : Uint16Array.from(codes) };
}

const size = fc.record({ width: fc.integer({ min: 1, max: 24 }), height: fc.integer({ min: 1, max: 16 }) });
const channels = fc.constantFrom(1 as const, 2 as const, 3 as const, 4 as const);

const over = fc.oneof(
  fc.record({ colour, light: fc.constantFrom('stored', 'linear') }),
  fc.record({
    source: fc.constant({ name: 'yard' }),
    light: fc.constantFrom('stored', 'linear'),
    fit: fc.constantFrom('own', 'within', 'cover'),
    right: fc.integer({ min: -3, max: 3 }),
    down: fc.constant(0),
    scale: fc.constantFrom(100, 60),
    rotation: fc.constantFrom(0, 30),
  }),
);

const recipes = fc.record({
  image: fc.record({ size, channels, sample: fc.constantFrom(...depths), seed: fc.integer() }),
  under: fc.record({ size, channels, sample: fc.constantFrom(...depths), seed: fc.integer() }),
  from: fc.record({
    alpha: fc.constantFrom('straight', 'premultiplied', 'ignore', 'on-colour'),
    transfer: fc.constantFrom(...transfers),
    primaries: fc.constantFrom(...primaries),
    matte: rarely(colour),
  }),
  picture: fc.record({
    key: rarely(fc.record({ colour, tolerance: unit, softness: unit, spill: unit })),
    resize: rarely(
      fc.record({
        to: size,
        filter: fc.constantFrom('bilinear', 'bicubic', 'lanczos', 'area'),
        light: fc.constantFrom('stored', 'linear'),
      }),
    ),
    pad: rarely(fc.record({ multiple: fc.integer({ min: 2, max: 9 }), where: fc.constantFrom('end', 'around') })),
    over: rarely(over),
    levels: rarely(
      fc.record({
        black: fc.constantFrom([0, 0, 0], [0.1, 0, 0.05]),
        white: fc.constantFrom([1, 1, 1], [0.9, 1, 1.2]),
        gamma: fc.constantFrom([1, 1, 1], [1.2, 1, 0.8]),
        exposure: fc.constantFrom(0, 0.5, -1),
      }),
    ),
    highlights: fc.constantFrom('clip', 'roll-off'),
    dither: fc.constantFrom('none', 'none', 'ordered', 'blue-noise', 'diffusion'),
  }),
  to: fc.record({
    alpha: fc.constantFrom('straight', 'premultiplied', 'none', 'matte'),
    transfer: fc.constantFrom(...transfers),
    primaries: fc.constantFrom(...primaries),
    sample: fc.constantFrom(...depths),
    matte: rarely(colour),
  }),
});

/** Samples as values, to be held against each other. */
function valuesOf({ sample, data }: Image): number[] {
  const halves = sample === 'f16' ? halfTable() : undefined;
  return Array.from(data, (one) => (halves ? halves[one]! : one));
}

/** Two floats that are the same but for the last bits of a power, relative to their size. */
const isNear = (a: number, b: number): boolean =>
  Object.is(a, b) || a === b || Math.abs(a - b) <= 1e-6 * Math.max(1, Math.abs(a), Math.abs(b));
/** Halves next to each other. */
const isNearHalf = (a: number, b: number): boolean =>
  isNear(a, b) || Math.abs(a - b) <= Math.max(Math.abs(a) / 1000, 6e-8);

const aspect = { num: 1, den: 1 };

test('every course of steps gives what core gives: codes alike, floats to a millionth, counts and all', () => {
  let compared = 0;
  fc.assert(
    fc.property(recipes, ({ image: shape, under: beneath, from, picture, to }) => {
      const isKeyed = picture.key !== null && shape.channels >= 3;
      const recipe = {
        from: { ...from, pixelAspect: aspect },
        under: { alpha: 'straight', transfer: 'srgb', primaries: 'bt709', pixelAspect: aspect, matte: null },
        picture: {
          ...untouched,
          ...picture,
          key: isKeyed ? picture.key : null,
          resize: picture.resize && { ...picture.resize, to: { by: 'size', ...picture.resize.to } },
        },
        to,
      } as unknown as Recipe;
      const make = ({ size: { width, height }, channels: count, sample, seed }: typeof shape) =>
        drawn(width, height, count, sample, seed);
      const image = make(shape);
      const others = { under: make(beneath) };
      const plain = makeConverter(recipe, image.sample)(image, others);
      const compiled = makeConverter(recipe, image.sample, compiledKernel)(image, others);
      const told = ({ image: { width, height, channels: count, sample } }: typeof plain) => [
        width,
        height,
        count,
        sample,
      ];
      expect(told(compiled)).toEqual(told(plain));
      const [ours, theirs] = [valuesOf(compiled.image), valuesOf(plain.image)];
      const near = to.sample === 'f16' ? isNearHalf : isNear;
      const isInteger = mostOf[to.sample] !== undefined;
      ours.forEach((one, at) => {
        if (isInteger ? one !== theirs[at] : !near(one, theirs[at]!)) expect([at, one]).toEqual([at, theirs[at]]);
      });
      expect(compiled.counts satisfies PixelCounts).toEqual(plain.counts);
      compared += ours.length;
    }),
    { numRuns: isLong ? 1500 : 90 },
  );
  expect(compared).toBeGreaterThan(1000);
});
