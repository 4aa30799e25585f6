import fc from 'fast-check';
import { alignedFrame, timedOf } from './align.ts';
import { standardRates } from '../timing/rate.ts';

const at = (first: number, num: number, den = 1) => ({ first, rate: { num, den } });

test('by number a frame goes with the same number, moved by an offset', () => {
  expect(alignedFrame({ by: 'number', offset: 0 }, 24, at(1, 24), at(1001, 24))).toBe(24);
  expect(alignedFrame({ by: 'number', offset: 1000 }, 24, at(1, 24), at(1001, 24))).toBe(1024);
});

test('by time a frame goes with the one that is on screen when it begins', () => {
  expect(alignedFrame({ by: 'time', offset: 0 }, 1, at(1, 24), at(1001, 30))).toBe(1001);
  // Frame 25 begins at one second; at 30 fps that is the 31st.
  expect(alignedFrame({ by: 'time', offset: 0 }, 25, at(1, 24), at(1001, 30))).toBe(1031);
  expect(alignedFrame({ by: 'time', offset: 2 }, 25, at(1, 24), at(1001, 12))).toBe(1015);
  expect(alignedFrame({ by: 'time', offset: 0 }, 0, at(1, 24), at(1, 12))).toBe(0);
  expect(alignedFrame({ by: 'time', offset: 0 }, 5, { first: 1, rate: null }, at(11, 12))).toBe(15);
});

test('by time no frame of any pair of standard rates slips, over a day', () => {
  const rate = fc.constantFrom(...standardRates);
  fc.assert(
    fc.property(rate, rate, fc.integer({ min: 0, max: 86_400 * 120 }), (a, b, frame) => {
      const found = alignedFrame({ by: 'time', offset: 0 }, frame, { first: 0, rate: a }, { first: 0, rate: b })!;
      // On screen: it has begun, and the next one has not (begin = frame x den / num).
      const begun = BigInt(frame * a.den) * BigInt(b.num);
      const one = BigInt(b.den) * BigInt(a.num);
      expect(BigInt(found) * one <= begun && BigInt(found + 1) * one > begun).toBe(true);
    }),
  );
});

test('by a plan a frame goes with its first result, or with none', () => {
  const runs = [
    { kind: 'write' as const, from: 1, fromStep: 2, to: 1001, toStep: 1, count: 3 },
    { kind: 'missing' as const, from: 7, fromStep: 1, to: 1004, toStep: 1, count: 1 },
    { kind: 'write' as const, from: 9, fromStep: 0, to: 1005, toStep: 1, count: 4 },
  ];
  const found = [1, 2, 3, 5, 7, 9, 10].map((frame) =>
    alignedFrame({ by: 'plan', runs, back: false }, frame, at(1, 24), at(1001, 24)),
  );
  expect(found).toEqual([1001, undefined, 1002, 1003, undefined, 1005, undefined]);
  const back = [1001, 1003, 1004, 1005, 1008, 1009].map((frame) =>
    alignedFrame({ by: 'plan', runs, back: true }, frame, at(1001, 24), at(1, 24)),
  );
  expect(back).toEqual([1, 5, undefined, 9, 9, undefined]);
});

test('a source without frames begins at 0', () => {
  expect(timedOf({ coverage: [] }, null)).toEqual({ first: 0, rate: null });
  expect(timedOf({ coverage: [{ first: 5, last: 9, step: 1 }] }, null).first).toBe(5);
});
