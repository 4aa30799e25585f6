import fc from 'fast-check';
import { begunAfter, framesFrom, placeAfter } from './track.ts';

const span = { first: 1, last: 5 };
const way = (start: number, returns: boolean, count: number) =>
  Array.from({ length: count }, (_, gone) => span.first + placeAfter(span, { start, returns }, gone));

test('around: after the last comes the first', () => expect(way(4, false, 7)).toEqual([4, 5, 1, 2, 3, 4, 5]));
test('back and forth: each end once', () => expect(way(3, true, 11)).toEqual([3, 4, 5, 4, 3, 2, 1, 2, 3, 4, 5]));
test('a single frame stays', () => expect(placeAfter({ first: 7, last: 7 }, { start: 7, returns: true }, 12)).toBe(0));

test('the frame that is due is exact at every rate: it has begun, and the next has not', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(24, 25, 30),
      fc.boolean(),
      fc.integer({ min: 0, max: 86_400_000 }),
      (num, drop, time) => {
        const rate = drop ? { num: num * 1000, den: 1001 } : { num, den: 1 };
        const due = Math.floor(begunAfter(time, rate, false));
        expect(BigInt(due) * 1000n * BigInt(rate.den) <= BigInt(time) * BigInt(rate.num)).toBe(true);
        expect(BigInt(due + 1) * 1000n * BigInt(rate.den) > BigInt(time) * BigInt(rate.num)).toBe(true);
      },
    ),
  );
  expect(begunAfter(1000, { num: 24, den: 1 }, true)).toBe(12);
});

test('frames ahead are those that come, without the missing ones, each once', () => {
  const track = {
    span,
    coverage: [
      { first: 1, last: 3, step: 1 },
      { first: 5, last: 5, step: 1 },
    ],
  };
  expect(framesFrom(track, { start: 3, returns: false }, 0, 240)).toEqual([3, 5, 1, 2]);
  expect(framesFrom(track, { start: 3, returns: true }, 1, 4)).toEqual([5, 3]);
});
