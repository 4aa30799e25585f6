import fc from 'fast-check';
import {
  cutStretches,
  fitLines,
  onLine,
  standing,
  stretchCount,
  stretchFrom,
  thereAndBack,
  type Line,
  type Stretch,
} from './line.ts';

const lines = fc.record<Line>({
  from: fc.integer({ min: -1000, max: 1000 }),
  step: fc.integer({ min: -50, max: 50 }),
  phase: fc.integer({ min: 0, max: 40 }),
  den: fc.integer({ min: 1, max: 30 }),
  repeat: fc.integer({ min: 1, max: 4 }),
});
const stretches = fc.array(fc.record<Stretch>({ line: lines, count: fc.integer({ min: 1, max: 40 }) }), {
  maxLength: 5,
});
const listed = (some: readonly Stretch[]): number[] =>
  some.flatMap(({ line, count }) => Array.from({ length: count }, (_, at) => onLine(line, at)));

test('a part of stretches gives the same numbers as the whole does there', () => {
  fc.assert(
    fc.property(stretches, fc.nat(100), fc.nat(100), (some, start, length) => {
      const all = listed(some);
      expect(listed(cutStretches(some, start, start + length))).toEqual(all.slice(start, start + length));
      if (some[0] && start < some[0].count)
        expect(listed(stretchFrom(some[0], start))).toEqual(listed([some[0]]).slice(start));
    }),
  );
});

test('where each stands for so many, the first of every group is shown for all of it', () => {
  fc.assert(
    fc.property(stretches, fc.integer({ min: 1, max: 7 }), (some, each) => {
      const all = listed(some);
      const stood = standing(some, each);
      expect(listed(stood)).toEqual(all.map((_, at) => all[at - (at % each)]));
      expect(stretchCount(stood)).toBe(all.length);
    }),
  );
});

test('numbers come out of their lines as they went in, whatever they are', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: -5000, max: 5000 }), { maxLength: 200 }), (values) => {
      expect(listed(fitLines(values))).toEqual(values);
    }),
  );
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 2 }), { maxLength: 400 }), (steps) => {
      let sum = 0;
      const values = steps.map((step) => (sum += step));
      expect(listed(fitLines(values))).toEqual(values);
    }),
  );
});

test('places far out are those of big integers', () => {
  fc.assert(
    fc.property(
      fc.nat(10_368_000),
      fc.integer({ min: 1, max: 2e13 }),
      fc.integer({ min: 1, max: 2e10 }),
      (at, step, den) => {
        const exact = (7n + BigInt(at) * BigInt(step)) / BigInt(den);
        if (exact < BigInt(Number.MAX_SAFE_INTEGER))
          expect(BigInt(onLine({ from: 0, step, phase: 7, den }, at))).toBe(exact);
      },
    ),
  );
});

test('a gentle bend needs few lines', () => {
  const values = Array.from({ length: 100_000 }, (_, at) => Math.round(at + (at * at) / 100_000));
  const into = values.map((value, at) => at + (at * at) / 100_000 + 0.5 - value);
  const lines = fitLines(values, into);
  expect(listed(lines)).toEqual(values);
  expect(lines.length).toBeLessThan(1000);
  expect(fitLines(Array.from({ length: 1000 }, (_, at) => at * 3))).toEqual([
    { line: { from: 0, step: 3 }, count: 1000 },
  ]);
});

test('there and back: what stood there from the last but one to the second, whatever the lines', () => {
  fc.assert(
    fc.property(stretches, (some) => {
      const all = listed(some);
      expect(listed(thereAndBack(some))).toEqual([...all, ...all.slice(1, -1).reverse()]);
    }),
  );
});
