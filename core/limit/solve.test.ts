import fc from 'fast-check';
import { goodShare, mostTries, solveLimit } from './solve.ts';

const smooth =
  (full: number, power: number, wobble = 0) =>
  async (given: number) =>
    Math.round(full * Math.exp(-power * given) * (1 + wobble * Math.sin(given * 41)));

test('whatever a file loses by, it ends within 92 and 100 per cent of its limit in few encodes, or proves that it cannot', async () => {
  const counts: number[] = [];
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 10_000, max: 50_000_000 }),
      fc.double({ min: 0.3, max: 5, noNaN: true }),
      fc.double({ min: 0.3, max: 5, noNaN: true }),
      fc.double({ min: 0, max: 0.02, noNaN: true }),
      fc.double({ min: 0.005, max: 1.3, noNaN: true }),
      async (full, power, modelled, wobble, share) => {
        const encode = smooth(full, power, wobble);
        const limit = Math.round(full * share);
        const { best, tries, cannot } = await solveLimit({
          limit,
          encode,
          settings: (given) => given.toFixed(4),
          modelled,
        });
        counts.push(tries.length);
        expect(tries.length).toBeLessThanOrEqual(mostTries);
        if (cannot) expect(await encode(1)).toBeGreaterThan(limit);
        else {
          expect(best!.bytes).toBeLessThanOrEqual(limit);
          // All that was wanted fits, or the limit is nearly reached.
          if (best!.given > 0 && (await encode(1)) < limit * goodShare)
            expect(best!.bytes).toBeGreaterThanOrEqual(limit * goodShare);
        }
      },
    ),
    { numRuns: 500 },
  );
  expect(counts.reduce((sum, count) => sum + count, 0) / counts.length).toBeLessThan(4);
});

test('settings in steps: the largest step within the limit, none encoded twice', async () => {
  const sizes = [1000, 700, 520, 390];
  const seen: number[] = [];
  const step = (given: number) => Math.min(3, Math.floor(given * 4));
  const { best, tries } = await solveLimit({
    limit: 600,
    encode: async (given) => {
      seen.push(step(given));
      return sizes[step(given)]!;
    },
    settings: (given) => String(step(given)),
    modelled: 1,
  });
  expect(best!.bytes).toBe(520);
  expect(new Set(seen).size).toBe(seen.length);
  expect(tries.length).toBe(seen.length);
});

test('what cannot be is proved by giving up all', async () => {
  const { best, cannot, tries } = await solveLimit({
    limit: 10,
    encode: smooth(1_000_000, 2),
    settings: String,
    modelled: 2,
  });
  expect([best, cannot]).toEqual([undefined, true]);
  expect(tries.at(-1)!.given).toBe(1);
});
