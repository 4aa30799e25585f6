import fc from 'fast-check';
import { atConstantRate, beginnings, clipTimes, type TickRun } from './clipTimes.ts';
import { standardRates, type Rate } from './rate.ts';

/** Times as a container writes them: rounded to its base. */
const rounded = (count: number, rate: Rate, base: Rate, start = 0) =>
  Array.from({ length: count }, (_, at) => start + Math.round((at * rate.den * base.den) / (rate.num * base.num)));

describe('times of a clip', () => {
  test('every standard rate is found in a base of milliseconds, whatever the container says of it', () => {
    for (const rate of standardRates)
      expect(clipTimes(rounded(2000, rate, { num: 1, den: 1000 }, 70), 0, { num: 1, den: 1000 })).toEqual({
        rate,
        variable: false,
      });
  });

  test('what the container says goes first where the times keep it', () => {
    const said = { num: 19_001, den: 1000 };
    const times = rounded(300, said, { num: 1, den: 90_000 });
    expect(clipTimes(times, 0, { num: 1, den: 90_000 }, said)).toEqual({ rate: said, variable: false });
    expect(clipTimes(times, 0, { num: 1, den: 90_000 }, { num: 30, den: 1 }).rate).not.toEqual({ num: 30, den: 1 });
  });

  test('a picture that stays longer makes it variable, and its length is kept', () => {
    const times = [0, 40, 80, 200, 240];
    expect(clipTimes(times, 40, { num: 1, den: 1000 })).toEqual({
      rate: { num: 25, den: 1 },
      variable: true,
      holes: [{ after: 2, lost: 2 }],
      runs: [
        [2, 40],
        [1, 120],
        [2, 40],
      ],
    });
  });

  test('times that change by no whole number of pictures are a rate that varies', () => {
    const { rate, variable, holes } = clipTimes([0, 40, 80, 170, 210], 40, { num: 1, den: 1000 });
    expect([rate, variable, holes]).toEqual([{ num: 20, den: 1 }, true, undefined]);
  });

  test('runs give the times back', () => {
    const steps = fc.array(fc.integer({ min: 1, max: 5000 }), { minLength: 2, maxLength: 60 });
    fc.assert(
      fc.property(steps, (ticks) => {
        const times = ticks.reduce<number[]>((all, step) => [...all, all[all.length - 1]! + step], [0]).slice(0, -1);
        const { runs, variable } = clipTimes(times, ticks[ticks.length - 1]!, { num: 1, den: 90_000 });
        if (variable) expect([...beginnings(runs!)]).toEqual(times);
      }),
    );
  });
});

describe('a constant rate by times', () => {
  test('a picture that stays for three frames is taken three times; one that is too short is dropped', () => {
    const runs: TickRun[] = [
      [1, 40],
      [1, 120],
      [1, 10],
      [1, 30],
    ];
    expect(atConstantRate(runs, { num: 1, den: 1000 }, { num: 25, den: 1 })).toEqual([0, 1, 1, 1, 3]);
  });

  test('at its own rate, rounded to whatever base, every picture comes once', () => {
    fc.assert(
      fc.property(fc.constantFrom(...standardRates), fc.integer({ min: 2, max: 400 }), (rate, count) => {
        const base = { num: 1, den: 1000 };
        const times = rounded(count + 1, rate, base);
        const runs = times.slice(1).map((time, at): TickRun => [1, time - times[at]!]);
        expect(atConstantRate(runs, base, rate)).toEqual(Array.from({ length: count }, (_, at) => at));
      }),
    );
  });

  test('each frame shows the picture whose time holds its middle', () => {
    const lengths = fc.array(fc.integer({ min: 1, max: 9000 }), { minLength: 1, maxLength: 40 });
    fc.assert(
      fc.property(lengths, fc.constantFrom(...standardRates), (ticks, rate) => {
        const base = { num: 1, den: 90_000 };
        const places = atConstantRate(
          ticks.map((t): TickRun => [1, t]),
          base,
          rate,
        );
        const ends = ticks.map((_, at) => ticks.slice(0, at + 1).reduce((sum, t) => sum + t, 0));
        // In whole numbers: the middle of frame k is (2k + 1) * den / (2 num) seconds.
        const wrong = places.findIndex((place, k) => {
          const middle = BigInt(2 * k + 1) * BigInt(rate.den) * 90_000n;
          const at = ends.findIndex((end) => BigInt(end) * 2n * BigInt(rate.num) > middle);
          return place !== (at < 0 ? ticks.length - 1 : at);
        });
        expect(wrong).toBe(-1);
      }),
    );
  });
});
