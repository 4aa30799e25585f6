import fc from 'fast-check';
import {
  coverageCount,
  coverageOf,
  covers,
  frameAt,
  framesOf,
  intersect,
  missingFrom,
  parseCoverage,
  printCoverage,
} from './ranges.ts';

const frames = fc
  .uniqueArray(fc.integer({ min: -500, max: 3000 }), { maxLength: 120 })
  .map((list) => list.sort((a, b) => a - b));

describe('coverage', () => {
  test('keeps exactly the frames it was made of', () => {
    fc.assert(
      fc.property(frames, (list) => {
        const coverage = coverageOf(list);
        expect([...framesOf(coverage)]).toEqual(list);
        expect(coverageCount(coverage)).toBe(list.length);
      }),
    );
  });

  test('is read back from what it prints', () => {
    fc.assert(
      fc.property(
        frames.filter((list) => list.length > 0),
        (list) => {
          const coverage = coverageOf(list);
          expect(parseCoverage(printCoverage(coverage))).toEqual(coverage);
        },
      ),
    );
  });

  test('names what is missing: present and missing together are every number between', () => {
    fc.assert(
      fc.property(
        frames.filter((list) => list.length > 1),
        (list) => {
          const coverage = coverageOf(list);
          fc.pre(coverage.length > 1);
          const all = [...list, ...framesOf(missingFrom(coverage))].sort((a, b) => a - b);
          expect(all).toEqual(Array.from({ length: list.at(-1)! - list[0]! + 1 }, (_, at) => list[0]! + at));
        },
      ),
    );
  });

  test('intersects as sets do', () => {
    fc.assert(
      fc.property(frames, frames, (a, b) => {
        const both = new Set(b);
        expect([...framesOf(intersect(coverageOf(a), coverageOf(b)))]).toEqual(a.filter((frame) => both.has(frame)));
      }),
    );
  });

  test('finds a frame by number and by position', () => {
    const coverage = parseCoverage('1-5,10-20x5,30');
    expect([4, 6, 15, 16, 30].map((frame) => covers(coverage, frame))).toEqual([true, false, true, false, true]);
    expect([0, 5, 7, 8, 9, -1].map((at) => frameAt(coverage, at))).toEqual([1, 10, 20, 30, undefined, undefined]);
  });

  test.each([
    ['1-36,38-60', '1-36,38-60'],
    ['38-60, 1-36', '1-36,38-60'],
    ['1-95x2', '1-95x2'],
    ['-5--1', '-5--1'],
    ['7', '7'],
    ['1-10,5-12', '1-12'],
    ['1-10x4', '1-9x4'],
  ])('reads %s', (text, printed) => expect(printCoverage(parseCoverage(text))).toBe(printed));

  test.each(['', 'x', '5-1', '1-5x0', '1..5', '1-', '1-99999999999'])('refuses "%s"', (text) =>
    expect(() => parseCoverage(text)).toThrow(expect.objectContaining({ code: 'bad-frame-range' })),
  );

  test('every second frame lacks nothing, a hole in it does', () => {
    expect(missingFrom(parseCoverage('0-44x4'))).toEqual([]);
    expect(printCoverage(missingFrom(parseCoverage('1-36,38-60')))).toBe('37');
  });
});
