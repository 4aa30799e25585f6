import fc from 'fast-check';
import {
  compareImages,
  makeConverter,
  makeSamples,
  numberToHalf,
  resample,
  similarityOf,
  untouched,
  type Image,
  type Recipe,
} from '@shale/core';
import { pixelAddon } from './pixels/addon.ts';
import { compareQuickly, compiledKernel, similarQuickly } from './kernels.ts';
import { runs } from '@shale/core/testRuns.ts';

const from: Recipe['from'] = {
  alpha: 'straight',
  transfer: 'srgb',
  primaries: 'bt709',
  pixelAspect: { num: 1, den: 1 },
  matte: null,
};
const straight: Recipe = {
  from,
  under: null,
  picture: untouched,
  to: { alpha: 'straight', transfer: 'srgb', primaries: 'bt709', sample: 'u8', matte: null },
};
const picture = (sample: Image['sample'], codes: number[]): Image => ({
  width: codes.length / 4,
  height: 1,
  channels: 4,
  sample,
  data: Uint16Array.from(codes),
});

test('narrowing gives what core gives for every code', () => {
  const image = picture(
    'u16',
    Array.from({ length: 65_536 }, (_, code) => code),
  );
  expect(makeConverter(straight, 'u16', compiledKernel)(image)).toEqual(makeConverter(straight, 'u16')(image));
});

test.each(['srgb', 'linear'] as const)('dividing gives what core gives, counts and all, to %s', (transfer) => {
  const recipe: Recipe = {
    ...straight,
    from: { ...from, alpha: 'premultiplied', transfer: 'linear' },
    to: { ...straight.to, transfer },
  };
  const plain = makeConverter(recipe, 'f16');
  const compiled = makeConverter(recipe, 'f16', compiledKernel);
  const usual = fc.double({ min: 0, max: 1.2, noNaN: true }).map(numberToHalf);
  const code = fc.oneof(
    { weight: 6, arbitrary: usual },
    { weight: 1, arbitrary: fc.constantFrom(0, 0x3c00, 0x8000) },
    { weight: 1, arbitrary: fc.nat(65_535) },
  );
  fc.assert(
    fc.property(fc.array(fc.tuple(code, code, code, code), { minLength: 1, maxLength: 60 }), (pixels) => {
      const image = picture('f16', pixels.flat());
      expect(compiled(image)).toEqual(plain(image));
    }),
    { numRuns: runs(2000) },
  );
});

test('comparing gives what core gives: codes, halves by value, floats with what is not a number', () => {
  const codes = fc.array(fc.nat(65_535), { minLength: 6, maxLength: 6 });
  const numbers = fc.array(fc.float(), { minLength: 6, maxLength: 6 });
  const of = (sample: Image['sample'], data: Image['data']): Image => ({
    width: 2,
    height: 1,
    channels: 3,
    sample,
    data,
  });
  fc.assert(
    fc.property(codes, codes, numbers, numbers, (a, b, c, d) => {
      for (const sample of ['u16', 'f16'] as const) {
        const [one, two] = [of(sample, Uint16Array.from(a)), of(sample, Uint16Array.from(b))];
        expect(compareQuickly(one, two)).toEqual(compareImages(one, two));
        expect(compareQuickly(one, one)).toEqual({ samples: 0, most: 0 });
      }
      const [one, two] = [of('f32', Float32Array.from(c)), of('f32', Float32Array.from(d))];
      expect(compareQuickly(one, two)).toEqual(compareImages(one, two));
      const bytes = [of('u8', Uint8Array.from(a)), of('u8', Uint8Array.from(b))] as const;
      expect(compareQuickly(...bytes)).toEqual(compareImages(...bytes));
    }),
  );
  expect(compareQuickly(of('u8', new Uint8Array(6)), of('u16', new Uint16Array(6)))).toBeUndefined();
});

describe('every way gives what core gives, counts and all', () => {
  const depths = [
    ['u8', 'u8'],
    ['u8', 'u16'],
    ['u8', 'f16'],
    ['u10', 'u16'],
    ['u16', 'u8'],
    ['u16', 'u12'],
    ['u16', 'f16'],
    ['f16', 'u8'],
    ['f16', 'u16'],
  ] as const;
  const ways = [
    ['premultiplied', 'straight', 'linear', 'srgb'],
    ['straight', 'premultiplied', 'srgb', 'linear'],
    ['straight', 'none', 'film-log', 'srgb'],
    ['ignore', 'none', 'linear', 'film-log'],
  ] as const;

  test.each(depths)('%s to %s', (sample, out) => {
    const most = { u8: 255, u10: 1023, u16: 65_535, f16: 65_535 }[sample];
    const code = fc.oneof(fc.nat(most), fc.constantFrom(0, most, Math.min(most, 0x3c00)));
    for (const [alpha, wanted, transfer, to] of ways) {
      const recipe: Recipe = {
        ...straight,
        from: { ...from, alpha, transfer },
        to: { ...straight.to, alpha: wanted, transfer: to, sample: out },
      };
      const plain = makeConverter(recipe, sample);
      const compiled = makeConverter(recipe, sample, compiledKernel);
      fc.assert(
        fc.property(
          fc.constantFrom(1 as const, 2 as const, 3 as const, 4 as const),
          fc.array(code, { minLength: 4, maxLength: 96 }),
          (channels, codes) => {
            const samples = codes.slice(0, codes.length - (codes.length % channels));
            const data = sample === 'u8' ? Uint8Array.from(samples) : Uint16Array.from(samples);
            const image: Image = { width: data.length / channels, height: 1, channels, sample, data };
            expect(compiled(image)).toEqual(plain(image));
          },
        ),
        { numRuns: 200 },
      );
    }
  });
});

const filters = ['bilinear', 'bicubic', 'lanczos', 'area'] as const;

test('resampling is core’s to the last bit, whatever the sizes, filters and values', () => {
  fc.assert(
    fc.property(
      fc.record({
        width: fc.integer({ min: 1, max: 40 }),
        height: fc.integer({ min: 1, max: 40 }),
        to: fc.record({ width: fc.integer({ min: 1, max: 60 }), height: fc.integer({ min: 1, max: 60 }) }),
        stride: fc.integer({ min: 1, max: 4 }),
        filter: fc.constantFrom(...filters),
        seed: fc.integer(),
        odd: fc.constantFrom(0, Infinity, -Infinity, NaN, 1e30, -3),
      }),
      ({ width, height, to, stride, filter, seed, odd }) => {
        let state = seed >>> 0;
        const next = () => ((state = (state * 1_664_525 + 1_013_904_223) >>> 0) / 2 ** 32) * 4 - 1;
        const data = Float32Array.from({ length: width * height * stride }, next);
        data[Math.floor(data.length / 2)] = odd;
        const source = { width, height, stride, data };
        const bits = ({ data: floats }: { data: Float32Array }) => [...floats].map((one) => (one === 0 ? 0 : one));
        expect(bits(resample(source, to, filter, compiledKernel.pass))).toEqual(bits(resample(source, to, filter)));
      },
    ),
    { numRuns: 300 },
  );
});

test('taps that reach beyond the picture are refused by the compiled passes', () => {
  const source = new Float32Array(16);
  const refused = (first: number[], weights: number[], to = 4) =>
    expect(() =>
      pixelAddon.resample(
        source,
        new Float32Array(to),
        4,
        1,
        4,
        Int32Array.from(first),
        Float64Array.from(weights),
        true,
      ),
    ).toThrow('the taps do not fit');
  refused([4], [1]);
  refused([-1], [1]);
  refused([3], [0.5, 0.5]);
  refused([0], [1], 8);
  refused([0, 0], [1]);
});

test('how near two pictures are is weighed as core weighs it, of every kind of sample', () => {
  fc.assert(
    fc.property(
      fc.constantFrom<Image['sample']>('u8', 'u10', 'u12', 'u16', 'f16', 'f32'),
      fc.constantFrom<Image['channels']>(1, 2, 3, 4),
      fc.integer({ min: 1, max: 40 }),
      fc.integer({ min: 1, max: 40 }),
      fc.nat(1000),
      fc.constantFrom(0, 3, 90),
      (sample, channels, width, height, seed, apart) => {
        let state = seed * 2 + 1;
        const random = () => (state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) / 4_294_967_296;
        const most = { u8: 255, u10: 1023, u12: 4095, u16: 65_535 }[sample as string];
        const of = (value: number) =>
          most
            ? Math.round(Math.min(1, Math.max(0, value)) * most)
            : sample === 'f16'
              ? numberToHalf(value * 3)
              : value * 3;
        const made = (): Image => ({
          ...{ width, height, channels, sample },
          data: makeSamples(sample, width * height * channels),
        });
        const [a, b] = [made(), made()];
        a.data.forEach((_, at) => {
          const value = random();
          a.data[at] = of(value);
          b.data[at] = of(value + ((random() - 0.5) * apart) / 100);
        });
        const [ours, theirs] = [similarQuickly(a, b)!, similarityOf(a, b)!];
        expect(ours.ssim).toBe(theirs.ssim);
        if (theirs.psnr === null) expect(ours.psnr).toBeNull();
        else expect(ours.psnr).toBeCloseTo(theirs.psnr, 9);
      },
    ),
    { numRuns: runs(300) },
  );
  const one: Image = { width: 2, height: 1, channels: 1, sample: 'u8', data: new Uint8Array(2) };
  expect(similarQuickly(one, { ...one, width: 1, height: 2 })).toBeUndefined();
});
