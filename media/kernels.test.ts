import fc from 'fast-check';
import { makeConverter, numberToHalf, untouched, type Image, type Recipe } from '@shale/core';
import { compiledKernels } from './kernels.ts';

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
  expect(makeConverter(straight, 'u16', compiledKernels)(image)).toEqual(makeConverter(straight, 'u16')(image));
});

test.each(['srgb', 'linear'] as const)('dividing gives what core gives, counts and all, to %s', (transfer) => {
  const recipe: Recipe = {
    ...straight,
    from: { ...from, alpha: 'premultiplied', transfer: 'linear' },
    to: { ...straight.to, transfer },
  };
  const plain = makeConverter(recipe, 'f16');
  const compiled = makeConverter(recipe, 'f16', compiledKernels);
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
    { numRuns: 2000 },
  );
});
