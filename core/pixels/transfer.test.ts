import fc from 'fast-check';
import type { DeclaredTransfer } from './colourNames.ts';
import { heldBetween, outsideKind } from './outside.ts';
import { quantiser } from './quantise.ts';
import { curves, transferBetween } from './transfer.ts';
import { runs } from '../testRuns.ts';

const names = Object.keys(curves) as DeclaredTransfer[];

test.each([
  // ITU-R BT.709-6, 1.2: the knee at 0.018, and 1.
  ['bt709', 0.018, 0.081],
  ['bt709', 1, 1],
  ['bt709', 0.18, 0.409],
  ['gamma-2.2', 0.5, 0.7297],
  ['gamma-2.4', 0.5, 0.7492],
  // SMPTE ST 2084: 100 and 10,000 cd/m2 with 203 as 1; ITU-R BT.2408 gives 58 % for 203.
  ['pq', 100 / 203, 0.5081],
  ['pq', 1, 0.5807],
  ['pq', 10_000 / 203, 1],
  // ITU-R BT.2408: diffuse white is 75 % of HLG; a signal of 0.5 is a twelfth of the peak.
  ['hlg', 1, 0.75],
  ['film-log', 0, 95 / 1023],
  ['film-log', 1, 685 / 1023],
  // 90 codes are 0.18 density, that is 10 ** (0.18 / 0.6) of light above the black.
  [
    'film-log',
    (10 ** (-90 * (0.002 / 0.6)) - 10 ** (-590 * (0.002 / 0.6))) / (1 - 10 ** (-590 * (0.002 / 0.6))),
    595 / 1023,
  ],
] as const)('%s has light %d at %d', (name, light, stored) => {
  expect(curves[name].fromLinear(light)).toBeCloseTo(stored, 3);
  expect(curves[name].toLinear(stored)).toBeCloseTo(light, name === 'pq' ? 1 : 2);
});

test.each(names)('%s comes back through light, and never falls', (name) => {
  const { toLinear, fromLinear } = curves[name];
  fc.assert(
    fc.property(
      fc.double({ min: 0.001, max: 1, noNaN: true }),
      fc.double({ min: 0, max: 0.2, noNaN: true }),
      (value, more) => {
        expect(fromLinear(toLinear(value))).toBeCloseTo(value, 9);
        expect(toLinear(value + more)).toBeGreaterThanOrEqual(toLinear(value));
      },
    ),
  );
});

test('a curve to another goes over light; to itself it is left to the last bit', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...names),
      fc.constantFrom(...names),
      fc.double({ min: 0, max: 1, noNaN: true }),
      (a, b, value) => {
        const there = transferBetween(a, b)(value);
        if (a === b) expect(there).toBe(value);
        else expect(there).toBeCloseTo(curves[b].fromLinear(curves[a].toLinear(value)), 12);
      },
    ),
  );
});

test.each([
  ['film-log', 'srgb', 'u8'],
  ['film-log', 'linear', 'u16'],
  ['linear', 'film-log', 'u10'],
  ['linear', 'film-log', 'u16'],
  ['hlg', 'gamma-2.4', 'u12'],
  ['srgb', 'bt709', 'u8'],
] as const)('%s to %s at %s gives what rounding the curve gives, from end to end and beyond', (from, to, sample) => {
  const curve = transferBetween(from, to);
  const held = heldBetween(from, to, sample);
  const quantise = quantiser(sample, curve, held);
  const max = { u8: 255, u10: 1023, u12: 4095, u16: 65_535 }[sample];
  const [least, most] = held;
  fc.assert(
    fc.property(fc.double({ min: least - 0.1, max: most + 0.1, noNaN: true }), fc.boolean(), (value, small) => {
      // A logarithm's foot holds most of its codes.
      const at = small ? least + (value - least) / 5000 : value;
      const kind = outsideKind(at, held);
      const wanted = kind === 1 ? 0 : kind === 2 ? max : Math.floor(curve(at) * max + 0.5);
      expect(Math.abs(quantise(at) - Math.min(max, Math.max(0, wanted)))).toBe(0);
    }),
    { numRuns: runs(2000) },
  );
});

test('the ends of 0 to 1 are exact where both curves have them', () => {
  for (const from of ['srgb', 'linear', 'bt709', 'gamma-2.2', 'gamma-2.4'] as const)
    for (const to of ['srgb', 'linear', 'bt709', 'gamma-2.2', 'gamma-2.4'] as const)
      expect(heldBetween(from, to, 'u16')).toEqual([0, 1]);
  expect(heldBetween('linear', 'film-log', 'u10')[1]).toBeGreaterThan(13);
});

test('what lies outside is told apart', () => {
  const held = heldBetween('linear', 'srgb', 'u8');
  expect([0.5, -0.1, 1.1, NaN, Infinity].map((value) => outsideKind(value, held))).toEqual([0, 1, 2, 3, 2]);
  const half = heldBetween('linear', 'linear', 'f16');
  expect([65_504, 65_519, 65_520, -70_000, NaN, -Infinity].map((value) => outsideKind(value, half))).toEqual([
    0, 0, 2, 1, 3, 4,
  ]);
});
