import { makeConverter } from './convert.ts';
import type { Image } from './image.ts';
import { untouched } from './picture.ts';
import type { Recipe } from './recipe.ts';
import { chromaticities, primariesBetween, toXyz, toXyzUnder, type Matrix3 } from './primaries.ts';

const near = (matrix: Matrix3 | undefined, wanted: number[], digits: number) =>
  matrix!.flat().forEach((value, at) => expect(value).toBeCloseTo(wanted[at]!, digits));

test('BT.709 to XYZ is the matrix of IEC 61966-2-1', () => {
  near(toXyz(chromaticities.bt709), [0.4124, 0.3576, 0.1805, 0.2126, 0.7152, 0.0722, 0.0193, 0.1192, 0.9505], 4);
});

test('BT.709 to BT.2020 is the matrix of ITU-R BT.2087-0', () => {
  near(primariesBetween('bt709', 'bt2020'), [0.6274, 0.3293, 0.0433, 0.0691, 0.9195, 0.0114, 0.0164, 0.088, 0.8956], 4);
});

test('ACEScg to XYZ is the matrix of S-2014-004', () => {
  near(
    toXyz(chromaticities.acescg),
    [
      0.6624541811, 0.1340042065, 0.156187687, 0.2722287168, 0.6740817658, 0.0536895174, -0.0055746495, 0.0040607335,
      1.0103391003,
    ],
    9,
  );
});

test('sRGB under D50 has the colourants of its usual profile', () => {
  near(
    toXyzUnder(chromaticities.bt709, [0.9642, 1, 0.8249]),
    [0.4361, 0.3851, 0.1431, 0.2225, 0.7169, 0.0606, 0.0139, 0.0971, 0.7141],
    3,
  );
});

test('white stays white between all, and there and back is the same', () => {
  const names = ['bt709', 'p3', 'bt2020', 'acescg'] as const;
  for (const from of names)
    for (const to of names) {
      const there = primariesBetween(from, to);
      if (from === to) expect(there).toBeUndefined();
      else {
        for (const row of there!) expect(row[0] + row[1] + row[2]).toBeCloseTo(1, 12);
        const back = primariesBetween(to, from)!;
        const colour = [0.2, 0.5, 0.8];
        const moved = there!.map((row) => row.reduce((sum, value, at) => sum + value * colour[at]!, 0));
        const home = back.map((row) => row.reduce((sum, value, at) => sum + value * moved[at]!, 0));
        home.forEach((value, at) => expect(value).toBeCloseTo(colour[at]!, 12));
      }
    }
});

// The standards' formulas once more, from code to code in doubles: BT.2020 to BT.709 by the matrix of ITU-R BT.2087-0, its
// colours' exact numbers from the chromaticities above.
const pqLight = (value: number) => {
  const root = value ** (1 / 78.84375);
  return (10_000 / 203) * (Math.max(root - 0.8359375, 0) / (18.8515625 - 18.6875 * root)) ** (1 / 0.1593017578125);
};
const srgbValue = (light: number) => (light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055);
const linear = (value: number) => value;

test.each([
  ['pq', 'bt2020', pqLight],
  ['linear', 'acescg', linear],
  ['linear', 'p3', linear],
] as const)(
  '16 bits of %s in %s come to sRGB within half a step, also where the terms nearly cancel out',
  (transfer, primaries, light) => {
    const recipe: Recipe = {
      from: { alpha: 'none', transfer, primaries, pixelAspect: { num: 1, den: 1 }, matte: null },
      under: null,
      picture: untouched,
      to: { alpha: 'none', transfer: 'srgb', primaries: 'bt709', sample: 'u16', matte: null },
    };
    const matrix = primariesBetween(primaries, 'bt709')!;
    const pixels = 200_000;
    let seed = 7;
    const next = () => (seed = (seed * 1_103_515_245 + 12_345) % 2 ** 31) / 2 ** 31;
    const data = Uint16Array.from({ length: pixels * 3 }, () =>
      Math.floor(next() * (transfer === 'pq' ? 42_000 : 65_536)),
    );
    const image: Image = { width: pixels, height: 1, channels: 3, sample: 'u16', data };
    const made = makeConverter(recipe, 'u16')(image).image.data;
    let most = 0;
    for (let pixel = 0; pixel < pixels; pixel += 1) {
      const colour = [0, 1, 2].map((channel) => light(data[pixel * 3 + channel]! / 65_535));
      matrix.forEach((row, channel) => {
        const value = srgbValue(row[0] * colour[0]! + row[1] * colour[1]! + row[2] * colour[2]!) * 65_535;
        most = Math.max(most, Math.abs(made[pixel * 3 + channel]! - Math.min(65_535, Math.max(0, value))));
      });
    }
    expect(most).toBeLessThan(0.501);
    expect(most).toBeGreaterThan(0.49);
  },
);
