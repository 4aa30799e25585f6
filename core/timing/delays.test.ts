import fc from 'fast-check';
import { delayError, delaysOf, delayWords, evenRate, rateOfDelays } from './delays.ts';
import { standardRates } from './rate.ts';

const rate = (num: number, den = 1) => ({ num, den });

test('delays keep the rate on average, however it falls between hundredths', () => {
  // 4.1666 hundredths: beginnings at 0, 4, 8, 13, 17, 21, 25.
  expect(delaysOf(rate(24), 6, 100)).toEqual([4, 4, 5, 4, 4, 4]);
  expect(delaysOf(rate(25), 3, 100)).toEqual([4, 4, 4]);
  expect(delaysOf(rate(60), 6, 100)).toEqual([2, 1, 2, 2, 1, 2]);
  expect(delaysOf(rate(30), 6, 1000)).toEqual([33, 34, 33, 33, 34, 33]);
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 120_000 }),
      fc.constantFrom(1, 1000, 1001),
      fc.integer({ min: 1, max: 500 }),
      fc.constantFrom(100, 1000),
      (num, den, count, perSecond) => {
        fc.pre(num / den <= 100);
        const total = delaysOf({ num, den }, count, perSecond).reduce((sum, delay) => sum + delay, 0);
        expect(Math.abs(total - (count * perSecond * den) / num)).toBeLessThanOrEqual(0.5 + 1e-6);
      },
    ),
  );
});

test('a rate is thinned evenly below a limit', () => {
  expect(evenRate(rate(60), 50)).toEqual(rate(30));
  expect(evenRate(rate(60_000, 1001), 50)).toEqual(rate(30_000, 1001));
  expect(evenRate(rate(120), 50)).toEqual(rate(40));
  expect(evenRate(rate(50), 50)).toEqual(rate(50));
});

test('how far a picture is from its time, and how that is said', () => {
  expect(delayError(rate(25), 100)).toBe(0);
  expect(delayWords(rate(50), 100)).toBeUndefined();
  // Of 4 1/6, 8 1/3, 12 1/2 ... the half is the worst.
  expect(delayError(rate(24), 100)).toBeCloseTo(0.005, 12);
  expect(delayWords(rate(24), 100)).toBe(
    '24 fps becomes delays of 4, 4, 5, 4, 4, 4 ... hundredths of a second: 24 on average, each picture within 5 ms',
  );
});

test('a rate is known again by its delays; others are not taken for one', () => {
  for (const one of standardRates.filter(({ num, den }) => num / den <= 50)) {
    const known = rateOfDelays(delaysOf(one, 400, 100), 100)!;
    expect(known.num / known.den).toBeCloseTo(one.num / one.den, 9);
  }
  expect(rateOfDelays([7, 7, 7], 100)).toEqual(rate(100, 7));
  expect(rateOfDelays([4, 80, 4], 100)).toBeUndefined();
  expect(rateOfDelays([0, 0], 100)).toBeUndefined();
  expect(rateOfDelays([], 100)).toBeUndefined();
});
