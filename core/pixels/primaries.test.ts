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
