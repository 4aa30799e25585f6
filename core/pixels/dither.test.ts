import fc from 'fast-check';
import { blueNoiseThresholds, dithererOf, orderedThresholds, type Ditherer } from './dither.ts';

const kinds = ['ordered', 'diffusion', 'blue-noise'] as const;

/** Codes of a picture of one value. */
function flat(dither: Ditherer, value: number, width: number, height: number): number[] {
  const codes: number[] = [];
  for (let y = 0; y < height; y += 1) for (let x = 0; x < width; x += 1) codes.push(dither(value, 0, x, y));
  return codes;
}

test('the thresholds hold every rank once', () => {
  for (const { side, values } of [orderedThresholds(), blueNoiseThresholds()]) {
    const count = side * side;
    expect([...values].map((value) => value * count - 0.5).sort((a, b) => a - b)).toEqual(
      Array.from({ length: count }, (_, at) => at),
    );
  }
  // The corner of Bayer's matrix: 0, 32, 8, 40 of 64.
  expect([...orderedThresholds().values.slice(0, 4)].map((value) => value * 64 - 0.5)).toEqual([0, 32, 8, 40]);
});

test('blue noise has no two of its sparsest points beside each other', () => {
  const { side, values } = blueNoiseThresholds();
  const dark = [...values.keys()].filter((at) => values[at]! < 0.1);
  let nearest = Infinity;
  for (const a of dark)
    for (const b of dark) {
      if (a === b) continue;
      const across = Math.abs((a % side) - (b % side));
      const down = Math.abs(Math.floor(a / side) - Math.floor(b / side));
      const apart = Math.hypot(Math.min(across, side - across), Math.min(down, side - down));
      nearest = Math.min(nearest, apart);
    }
  expect(nearest).toBeGreaterThan(1.5);
});

test.each(kinds)('%s keeps codes that are whole, and the mean of what lies between', (kind) => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 255 }), (code) => {
      expect(new Set(flat(dithererOf(kind, 32, 255), code, 32, 8))).toEqual(new Set([code]));
    }),
    { numRuns: 20 },
  );
  fc.assert(
    fc.property(fc.double({ min: 10, max: 240, noNaN: true }), (value) => {
      const codes = flat(dithererOf(kind, 64, 255), value, 64, 64);
      const mean = codes.reduce((sum, code) => sum + code, 0) / codes.length;
      expect(Math.abs(mean - value)).toBeLessThan(0.03);
      const furthest = Math.max(...codes.map((code) => Math.abs(code - value)));
      expect(furthest).toBeLessThanOrEqual(kind === 'diffusion' ? 1.5 : 1);
    }),
    { numRuns: 20 },
  );
});

test.each(kinds)('%s gives the same codes every time, and none beyond the ends', (kind) => {
  const once = flat(dithererOf(kind, 40, 1023), 511.37, 40, 40);
  expect(flat(dithererOf(kind, 40, 1023), 511.37, 40, 40)).toEqual(once);
  for (const value of [0, 0.2, 1022.8, 1023])
    for (const code of flat(dithererOf(kind, 16, 1023), value, 16, 16)) {
      expect(code).toBeGreaterThanOrEqual(0);
      expect(code).toBeLessThanOrEqual(1023);
    }
});
