import fc from 'fast-check';
import { makeConverter } from './convert.ts';
import { numberToHalf } from './half.ts';
import type { Image } from './image.ts';
import { keyAlpha, screens, withoutSpill } from './key.ts';
import { kneeAt, levelled, rolledOff } from './levels.ts';
import { keySchema, levelsSchema, resizeSchema, type Filter } from './picture.ts';
import { makePlainConverter, type Converter } from './plain.ts';
import { ofAll, type Recipe } from './recipe.ts';
import { resample, tapsOf } from './resample.ts';
import { recipeOf } from './testing.ts';
import { linearToSrgb, srgbToLinear } from './transfer.ts';
import { makeWorkshop } from './workshop.ts';

const rgba = (codes: number[], width = codes.length / 4): Image => ({
  width,
  height: codes.length / 4 / width,
  channels: 4,
  sample: 'u8',
  data: Uint8Array.from(codes),
});
const rgb = (codes: number[], width = codes.length / 3): Image => ({
  ...rgba(codes, width),
  height: codes.length / 3 / width,
  channels: 3,
});

test('worked in floats a plain recipe gives what the tables give, counts and all', () => {
  const code = fc.nat(65_535);
  const alphas = ['straight', 'premultiplied'] as const;
  // Tables take a while: one pair for each recipe.
  const made = new Map<string, [Converter, Converter]>();
  const both = (recipe: Recipe) => {
    const key = JSON.stringify(recipe);
    const pair = made.get(key) ?? [makePlainConverter(recipe, 'u16'), makeWorkshop(recipe)];
    made.set(key, pair);
    return pair;
  };
  fc.assert(
    fc.property(
      fc.array(fc.tuple(code, code, code, fc.oneof(code, fc.constantFrom(0, 65_535))), { minLength: 1, maxLength: 30 }),
      fc.constantFrom(...alphas),
      fc.constantFrom(...alphas, 'none' as const),
      fc.constantFrom('srgb' as const, 'linear' as const, 'bt709' as const),
      (pixels, from, to, transfer) => {
        const recipe = recipeOf({ alpha: from }, { alpha: to, transfer });
        const image: Image = {
          width: pixels.length,
          height: 1,
          channels: 4,
          sample: 'u16',
          data: Uint16Array.from(pixels.flat()),
        };
        const [plainly, floating] = both(recipe);
        const [plain, worked] = [plainly(image), floating(image)];
        // Floats of 32 bits may fall on the other side of a half.
        plain.image.data.forEach((value, at) =>
          expect(Math.abs(value - worked.image.data[at]!)).toBeLessThanOrEqual(1),
        );
        // A value that floats leave at 1 to within their rounding is not called clipped; hardly ever is there one.
        const { low, high, ...others } = worked.counts;
        const { low: plainLow, high: plainHigh, ...plainOthers } = plain.counts;
        expect(others).toEqual(plainOthers);
        expect(Math.abs(ofAll(low) - ofAll(plainLow))).toBeLessThanOrEqual(1);
        expect(Math.abs(ofAll(high) - ofAll(plainHigh))).toBeLessThanOrEqual(1);
      },
    ),
    { numRuns: 150 },
  );
});

describe('resizing', () => {
  const filters: Exclude<Filter, 'nearest'>[] = ['bilinear', 'bicubic', 'lanczos', 'area'];

  test.each(filters)('%s: weights sum to 1, the same size is the same picture, one colour stays', (filter) => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 60 }), fc.integer({ min: 1, max: 60 }), (from, to) => {
        const { count, weights, first } = tapsOf(from, to, filter);
        const places = Array.from({ length: to }, (_, at) => at);
        const sumOf = (at: number) => weights.subarray(at * count, (at + 1) * count).reduce((sum, one) => sum + one, 0);
        expect(places.every((at) => Math.abs(sumOf(at) - 1) < 1e-9)).toBe(true);
        expect(places.every((at) => first[at]! >= 0 && first[at]! + count <= from)).toBe(true);
        const flat = { width: from, height: 3, stride: 2, data: new Float32Array(from * 6).fill(0.375) };
        const resized = resample(flat, { width: to, height: 5 }, filter).data;
        expect(resized.every((value) => Math.abs(value - 0.375) < 1e-5)).toBe(true);
      }),
    );
    const data = Float32Array.from({ length: 36 }, (_, at) => Math.sin(at));
    const source = { width: 4, height: 3, stride: 3, data };
    expect(resample(source, source, filter).data).toEqual(data);
  });

  test('area by half is the mean of four', () => {
    const source = { width: 4, height: 2, stride: 1, data: Float32Array.of(1, 2, 3, 4, 5, 6, 7, 8) };
    expect([...resample(source, { width: 2, height: 1 }, 'area').data]).toEqual([3.5, 5.5]);
  });

  test('Lanczos in the middle of a long row is the sum that its formula gives', () => {
    const row = Float32Array.from({ length: 40 }, (_, at) => Math.fround(Math.sin(at * 0.7) + at / 20));
    const out = resample({ width: 40, height: 1, stride: 1, data: row }, { width: 20, height: 1 }, 'lanczos').data;
    // Shrunk by 2: the kernel is twice as wide; result 10 lies at source place 21.
    const sinc = (x: number) => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x));
    const weights = row.map((_, at) => {
      const x = Math.abs(at + 0.5 - 21) / 2;
      return x < 3 ? sinc(x) * sinc(x / 3) : 0;
    });
    const total = weights.reduce((sum, value) => sum + value, 0);
    expect(out[10]).toBeCloseTo(row.reduce((sum, value, at) => sum + value * weights[at]!, 0) / total, 5);
  });

  test('what is clear does not bleed into what is not', () => {
    // A red pixel beside a clear green one: halved, the colour is red at half the alpha.
    const { image } = makeConverter(
      recipeOf({}, {}, { resize: resizeSchema.parse({ to: { by: 'size', width: 1, height: 1 }, filter: 'area' }) }),
      'u8',
    )(rgba([255, 0, 0, 255, 0, 255, 0, 0]));
    expect([...image.data]).toEqual([255, 0, 0, 128]);
  });

  test('in linear light black and white meet at half the light', () => {
    const half = (light: 'stored' | 'linear') =>
      makeConverter(
        recipeOf(
          { alpha: 'none' },
          { alpha: 'none' },
          {
            resize: resizeSchema.parse({ to: { by: 'size', width: 1, height: 1 }, filter: 'area', light }),
          },
        ),
        'u8',
      )(rgb([0, 0, 0, 255, 255, 255])).image.data[0];
    expect([half('stored'), half('linear')]).toEqual([128, Math.round(linearToSrgb(0.5) * 255)]);
  });
});

describe('the key', () => {
  const key = keySchema.parse({ colour: screens.green, tolerance: 0.1, softness: 0.2, spill: 1 });

  test('clears the screen, keeps what is far from it, and goes evenly between', () => {
    expect(keyAlpha(screens.green, key)).toBe(0);
    expect(keyAlpha([0.8, 0.5, 0.4], key)).toBe(1);
    expect(keyAlpha([0, 0, 0], key)).toBe(1);
    const alphas = Array.from({ length: 11 }, (_, at) => keyAlpha([0.1 + at * 0.05, 0.7, 0.2 + at * 0.05], key));
    expect([...alphas].sort((a, b) => a - b)).toEqual(alphas);
    // Distance of a pixel twice as far as the tolerance: half of the softness is used up.
    expect(keyAlpha([0.5, 0.5, 0.5], { ...key, tolerance: 0, softness: 10 })).toBeCloseTo(
      Math.hypot((0.2 - 0.53634) / 1.8556, (0.1 - 0.53634) / 1.5748) / 10,
      4,
    );
  });

  test('takes the cast from what is kept and no more', () => {
    expect(withoutSpill([0.2, 0.6, 0.4], key)).toEqual([0.2, expect.closeTo(0.3, 9), 0.4]);
    expect(withoutSpill([0.2, 0.6, 0.4], { ...key, spill: 0.5 })[1]).toBeCloseTo(0.45, 9);
    expect(withoutSpill([0.9, 0.3, 0.4], key)).toEqual([0.9, 0.3, 0.4]);
  });

  test('makes alpha where there was none, multiplies it where there was', () => {
    const green = screens.green.map((value) => Math.round(value * 255));
    const { image } = makeConverter(recipeOf({ alpha: 'none' }, {}, { key }), 'u8')(rgb([...green, 200, 60, 50]));
    expect(image.channels).toBe(4);
    expect([image.data[3], image.data[7]]).toEqual([0, 255]);
    const twice = makeConverter(recipeOf({}, {}, { key }), 'u8')(rgba([200, 60, 50, 100, ...green, 100]));
    expect([twice.image.data[3], twice.image.data[7]]).toEqual([100, 0]);
  });
});

describe('levels, highlights, colours under and alpha alone', () => {
  test('black and white are the ends, gamma bends between', () => {
    expect([0.1, 0.3, 0.5].map((value) => levelled(value, 0.1, 0.5, 1))).toEqual([0, expect.closeTo(0.5, 12), 1]);
    expect(levelled(0.25, 0, 1, 2)).toBe(0.5);
    expect(levelled(-0.25, 0, 1, 2)).toBe(-0.5);
    const levels = levelsSchema.parse({ black: [0.2, 0, 0], exposure: 0 });
    const { image } = makeConverter(
      recipeOf({ alpha: 'none' }, { alpha: 'none' }, { levels }),
      'u8',
    )(rgb([51, 51, 51]));
    expect([...image.data]).toEqual([0, 51, 51]);
    expect(() => levelsSchema.parse({ black: [0.5, 0, 0], white: [0.5, 1, 1] })).toThrow();
  });

  test('a stop of exposure doubles the light', () => {
    const levels = levelsSchema.parse({ exposure: 1 });
    const { image } = makeConverter(
      recipeOf({ alpha: 'none' }, { alpha: 'none' }, { levels }),
      'u8',
    )(rgb([60, 90, 120]));
    expect([...image.data]).toEqual(
      [60, 90, 120].map((code) => Math.round(linearToSrgb(2 * srgbToLinear(code / 255)) * 255)),
    );
  });

  test('the roll-off leaves light below its knee, meets it smoothly and stays below 1', () => {
    expect([0.2, kneeAt].map(rolledOff)).toEqual([0.2, kneeAt]);
    expect((rolledOff(kneeAt + 1e-6) - kneeAt) / 1e-6).toBeCloseTo(1, 4);
    expect(rolledOff(20)).toBeLessThanOrEqual(1);
    const source: Image = { width: 3, height: 1, channels: 1, sample: 'f32', data: Float32Array.of(0.5, 1.5, 8) };
    const linear = { alpha: 'none', transfer: 'linear' } as const;
    const { image, counts } = makeConverter(
      recipeOf(linear, { ...linear, sample: 'u16' }, { highlights: 'roll-off' }),
      'f32',
    )(source);
    expect(image.data[0]).toBe(32_768);
    expect(image.data[1]).toBe(Math.round((0.8 + 0.2 * (1 - Math.exp(-0.7 / 0.2))) * 65_535));
    expect(counts).toMatchObject({ rolled: 2, high: [0, 0, 0] });
    const clipped = makeConverter(recipeOf(linear, { ...linear, sample: 'u16' }), 'f32')(source).counts;
    expect(clipped).toMatchObject({ rolled: 0, high: [2, 0, 0] });
  });

  test('laid over a colour, clear is the colour, half is the mean, and what had alpha is counted', () => {
    const over = { colour: [1, 0, 0] as [number, number, number], light: 'stored' as const };
    const pixels = rgba([0, 255, 0, 0, 0, 255, 0, 255, 0, 0, 255, 128]);
    const { image, counts } = makeConverter(recipeOf({}, { alpha: 'none' }, { over }), 'u8')(pixels);
    expect(image.channels).toBe(3);
    expect([...image.data]).toEqual([255, 0, 0, 0, 255, 0, 127, 0, 128]);
    expect(counts.alphaDropped).toBe(2);
    const light = makeConverter(recipeOf({}, { alpha: 'none' }, { over: { ...over, light: 'linear' } }), 'u8')(pixels);
    const share = 128 / 255;
    expect([...light.image.data.slice(6)]).toEqual([
      Math.round(linearToSrgb(1 - share) * 255),
      0,
      Math.round(linearToSrgb(share) * 255),
    ]);
  });

  test('alpha alone is grey, as it is stored', () => {
    const { image } = makeConverter(
      recipeOf({}, { alpha: 'matte', transfer: 'linear' }),
      'u8',
    )(rgba([9, 9, 9, 0, 9, 9, 9, 77]));
    expect(image).toMatchObject({ channels: 1, data: Uint8Array.of(0, 77) });
  });

  test('other primaries go through light by the matrix', () => {
    const { image } = makeConverter(
      recipeOf(
        { alpha: 'none', transfer: 'linear' },
        { alpha: 'none', transfer: 'linear', primaries: 'bt2020', sample: 'f32' },
      ),
      'f32',
    )({ width: 1, height: 1, channels: 3, sample: 'f32', data: Float32Array.of(1, 0, 0) });
    expect([...image.data].map((value) => Number(value.toFixed(4)))).toEqual([0.6274, 0.0691, 0.0164]);
  });

  test('what lies on a colour is taken off it and may be laid on another', () => {
    // Half a red over white is 255 128 128; a clear pixel is white itself.
    const lies = { alpha: 'on-colour', matte: [1, 1, 1] as [number, number, number] } as const;
    const stored = rgba([255, 127, 127, 128, 255, 255, 255, 0, 9, 9, 9, 255]);
    const straight = makeConverter(recipeOf(lies), 'u8')(stored);
    expect([...straight.image.data]).toEqual([255, 0, 0, 128, 0, 0, 0, 0, 9, 9, 9, 255]);
    expect(straight.counts).toMatchObject({ glow: 0, high: [0, 0, 0], low: [0, 0, 0] });
    const onBlack = makeConverter(recipeOf(lies, { alpha: 'premultiplied' }), 'u8')(stored).image.data;
    expect([...onBlack.slice(0, 4)]).toEqual([128, 0, 0, 128]);
    const back = makeConverter(recipeOf({}, { alpha: 'premultiplied', matte: [1, 1, 1] }), 'u8')(straight.image);
    expect([...back.image.data]).toEqual([...stored.data]);
  });

  test('a float that no half holds becomes infinite, and is counted', () => {
    const linear = { alpha: 'none', transfer: 'linear' } as const;
    const { counts, image } = makeConverter(
      recipeOf(linear, { ...linear, sample: 'f16' }),
      'f32',
    )({
      width: 4,
      height: 1,
      channels: 1,
      sample: 'f32',
      data: Float32Array.of(1e6, -1e6, NaN, Infinity),
    });
    expect(counts).toMatchObject({ high: [1, 0, 0], low: [1, 0, 0], nan: 1, infinite: 1 });
    expect([...image.data]).toEqual([1e6, -1e6, NaN, Infinity].map(numberToHalf));
  });
});
