import fc from 'fast-check';
import { compareImages } from './compare.ts';
import { makeConverter, type Converter } from './convert.ts';
import { halfToNumber, numberToHalf } from './half.ts';
import type { Image, Samples } from './image.ts';
import { quantiser } from './quantise.ts';
import type { Recipe } from './recipe.ts';
import { recipeOf as recipe } from './testing.ts';
import { linearToSrgb, srgbToLinear } from './transfer.ts';
import { runs } from '../testRuns.ts';

const picture = (sample: Image['sample'], channels: Image['channels'], data: Samples): Image => ({
  width: data.length / channels,
  height: 1,
  channels,
  sample,
  data,
});
const all = (count: number) => Array.from({ length: count }, (_, at) => at);

describe('transfer (IEC 61966-2-1)', () => {
  test.each([
    [0, 0],
    [1, 1],
    [0.5, 0.21404114048223255],
    [0.04045, 0.0031308049535603713],
    [0.2, 0.033104766570885055],
  ])('sRGB %d is linear %d', (encoded, linear) => {
    expect(srgbToLinear(encoded)).toBeCloseTo(linear, 12);
    expect(linearToSrgb(linear)).toBeCloseTo(encoded, 6);
  });

  test('is carried on beyond 0 and 1, and mirrored', () => {
    expect(linearToSrgb(-0.5)).toBe(-linearToSrgb(0.5));
    expect(srgbToLinear(linearToSrgb(4))).toBeCloseTo(4, 10);
  });
});

describe('quantising', () => {
  test.each(['u8', 'u10', 'u16'] as const)('%s gives what rounding the curve gives, everywhere', (sample) => {
    const max = { u8: 255, u10: 1023, u16: 65_535 }[sample];
    const steps = quantiser(sample, linearToSrgb);
    fc.assert(
      fc.property(fc.double({ min: -0.5, max: 1.5, noNaN: true }), (value) => {
        const clipped = Math.min(1, Math.max(0, value));
        expect(steps(value)).toBe(Math.floor(linearToSrgb(clipped) * max + 0.5));
      }),
      { numRuns: runs(3000) },
    );
    expect(steps(NaN)).toBe(0);
    expect(steps(Infinity)).toBe(max);
  });
});

describe('depth', () => {
  test('16 to 8 bits rounds to nearest over the full range', () => {
    const { image } = makeConverter(recipe({}, {}), 'u16')(picture('u16', 1, Uint16Array.from(all(65_536))));
    // By integers: v * 255 / 65535 rounded is (v + 128) div 257.
    expect(image.data).toEqual(Uint8Array.from(all(65_536), (code) => Math.floor((code + 128) / 257)));
  });

  test('8 to 16 bits multiplies by 257, and back gives the same', () => {
    const wide = makeConverter(recipe({}, { sample: 'u16' }), 'u8')(picture('u8', 1, Uint8Array.from(all(256)))).image;
    expect(wide.data).toEqual(Uint16Array.from(all(256), (code) => code * 257));
    expect(makeConverter(recipe({}, {}), 'u16')(wide).image.data).toEqual(Uint8Array.from(all(256)));
  });

  test('8 bits to half linear and back is the same', () => {
    const linear = makeConverter(
      recipe({}, { transfer: 'linear', sample: 'f16' }),
      'u8',
    )(picture('u8', 1, Uint8Array.from(all(256)))).image;
    expect(makeConverter(recipe({ transfer: 'linear' }, {}), 'f16')(linear).image.data).toEqual(
      Uint8Array.from(all(256)),
    );
  });
});

/** The rule of the docs, one pixel at a time and in the plainest words. */
function plainly(stored: number[], bits: (code: number) => number, rule: Pick<Recipe, 'from' | 'to'>): number[] {
  const values = stored.map(bits);
  const alpha = values[3]!;
  const colours = values.slice(0, 3).map((value) => {
    let colour = value;
    if (rule.from.alpha === 'premultiplied' && alpha > 0) colour /= alpha;
    if (rule.from.transfer !== rule.to.transfer)
      colour = rule.to.transfer === 'srgb' ? linearToSrgb(colour) : srgbToLinear(colour);
    if (rule.to.alpha !== 'straight' && (rule.from.alpha !== 'premultiplied' || alpha > 0)) colour *= alpha;
    return colour;
  });
  const code = (value: number) => (value > 0 ? Math.floor(Math.min(1, value) * 255 + 0.5) : 0);
  return [...colours.map(code), ...(rule.to.alpha === 'none' ? [] : [code(alpha)])];
}

describe('alpha', () => {
  // Tables take a while: one converter for each rule.
  const made = new Map<string, Converter>();
  const converterOf = (rule: Recipe) => {
    const key = JSON.stringify(rule);
    if (!made.has(key)) made.set(key, makeConverter(rule, 'f16'));
    return made.get(key)!;
  };
  const half = fc.oneof(fc.double({ min: 0, max: 1.2, noNaN: true }), fc.constant(0), fc.constant(1)).map(numberToHalf);
  const rules = fc
    .record({
      kind: fc.constantFrom('straight' as const, 'premultiplied' as const),
      curve: fc.constantFrom('srgb' as const, 'linear' as const),
      toKind: fc.constantFrom('straight' as const, 'premultiplied' as const, 'none' as const),
      toCurve: fc.constantFrom('srgb' as const, 'linear' as const),
    })
    .map(({ kind, curve, toKind, toCurve }) =>
      recipe({ alpha: kind, transfer: curve }, { alpha: toKind, transfer: toCurve }),
    );

  test('every pair of kinds and curves does what the rule says, pixel by pixel', () => {
    fc.assert(
      fc.property(
        rules,
        fc.array(fc.tuple(half, half, half, half), { minLength: 1, maxLength: 12 }),
        (rule, pixels) => {
          const { image } = converterOf(rule)(picture('f16', 4, Uint16Array.from(pixels.flat())));
          const wanted = pixels.flatMap((pixel) => plainly(pixel, halfToNumber, rule));
          for (const [at, code] of wanted.entries()) {
            if (image.data[at] !== code)
              throw new Error(`${JSON.stringify(rule)} ${pixels.join()}: ${image.data.join()} is not ${wanted.join()}`);
          }
        },
      ),
      { numRuns: runs(1500) },
    );
  });

  test('the quick ways give what the plain ones give, counts and all', () => {
    const samples = fc.array(fc.tuple(half, half, half, half), { minLength: 1, maxLength: 12 });
    const rule = recipe({ alpha: 'premultiplied', transfer: 'linear' }, {});
    const odd = fc.constantFrom(0x7e00, 0x7c00, 0xfc00, 0x8000, 0xbc00, 0x0001);
    fc.assert(
      fc.property(samples, fc.array(fc.tuple(fc.nat(47), odd), { maxLength: 4 }), (pixels, oddities) => {
        const codes = pixels.flat();
        for (const [at, code] of oddities) if (at < codes.length) codes[at] = code;
        const aligned = Uint16Array.from(codes);
        // Two bytes off a word, the quick way is not to be had.
        const shifted = new Uint16Array(codes.length + 1).subarray(1);
        shifted.set(codes);
        expect(converterOf(rule)(picture('f16', 4, shifted))).toEqual(converterOf(rule)(picture('f16', 4, aligned)));
      }),
      { numRuns: runs(500) },
    );
    const wide = Uint16Array.from(all(65_536));
    const shifted = new Uint16Array(65_537).subarray(1);
    shifted.set(wide);
    const converter = makeConverter(recipe({}, {}), 'u16');
    expect(converter(picture('u16', 4, shifted)).image.data).toEqual(converter(picture('u16', 4, wide)).image.data);
  });

  test('light without alpha keeps its colour and is counted', () => {
    const { image, counts } = makeConverter(
      recipe({ alpha: 'premultiplied', transfer: 'linear' }, { transfer: 'linear' }),
      'f16',
    )(picture('f16', 4, Uint16Array.from([0.5, 0, 0, 0, 0, 0, 0, 0, 0.25, 0.25, 0.25, 0.5].map(numberToHalf))));
    expect([...image.data]).toEqual([128, 0, 0, 0, 0, 0, 0, 0, 128, 128, 128, 128]);
    expect(counts).toMatchObject({ pixels: 3, glow: 1, high: [0, 0, 0] });
  });

  test('counts what is clipped: above, below, not a number', () => {
    const data = Uint16Array.from([
      numberToHalf(2),
      numberToHalf(-1),
      0x7e00,
      0x3c00,
      numberToHalf(0.9),
      0,
      0,
      numberToHalf(0.5),
    ]);
    const { counts } = makeConverter(
      recipe({ alpha: 'premultiplied', transfer: 'linear' }, {}),
      'f16',
    )(picture('f16', 4, data));
    expect(counts).toMatchObject({ high: [2, 0, 0], low: [0, 1, 0], nan: 1 });
    const opaque = makeConverter(
      recipe({ alpha: 'none', transfer: 'linear' }, { alpha: 'none' }),
      'f16',
    )(picture('f16', 3, data.slice(0, 3)));
    expect(opaque.counts).toMatchObject({ high: [1, 0, 0], low: [0, 1, 0], nan: 1 });
    const float = makeConverter(
      recipe({ alpha: 'none', transfer: 'linear' }, { alpha: 'none' }),
      'f32',
    )(picture('f32', 1, Float32Array.from([2, -1, NaN, 0.5])));
    expect(float.counts).toMatchObject({ high: [1, 0, 0], low: [1, 0, 0], nan: 1 });
  });

  test('dropping alpha says how many pixels were not opaque', () => {
    const data = Uint8Array.from([10, 20, 30, 255, 10, 20, 30, 128, 10, 20, 30, 0]);
    const ignored = makeConverter(recipe({ alpha: 'ignore' }, {}), 'u8')(picture('u8', 4, data));
    expect([...ignored.image.data]).toEqual([10, 20, 30, 10, 20, 30, 10, 20, 30]);
    expect(ignored.counts.alphaDropped).toBe(2);
    const black = makeConverter(recipe({}, { alpha: 'none' }), 'u8')(picture('u8', 4, data));
    expect([...black.image.data]).toEqual([10, 20, 30, 5, 10, 15, 0, 0, 0]);
  });
});

test('comparing tells shapes apart and finds the greatest difference', () => {
  const a = picture('u8', 1, Uint8Array.from([1, 2, 3]));
  expect(compareImages(a, picture('u8', 1, Uint8Array.from([1, 4, 3])))).toEqual({ samples: 1, most: 2 });
  expect(compareImages(a, picture('u8', 3, Uint8Array.from([1, 2, 3])))).toBeUndefined();
  const nan = picture('f32', 1, Float32Array.from([NaN, 1]));
  expect(compareImages(nan, nan)).toEqual({ samples: 0, most: 0 });
});
