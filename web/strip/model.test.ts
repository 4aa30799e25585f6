import fc from 'fast-check';
import { coverageOf, framesOf, missingFrom } from '@shale/core';
import { columnsOf, frameUnder, isPresent, stripOf, stripWords, type StripModel } from './model.ts';

const modelOf = (frames: number[], more: Partial<StripModel> = {}): StripModel => {
  const present = coverageOf(frames);
  return {
    first: frames[0]!,
    last: frames.at(-1)!,
    present,
    missing: missingFrom(present),
    doubled: [],
    suspect: [],
    weights: [1],
    ...more,
  };
};

const someFrames = fc
  .uniqueArray(fc.integer({ min: 0, max: 2000 }), { minLength: 1, maxLength: 150 })
  .map((list) => list.sort((a, b) => a - b));

describe('columns of a strip', () => {
  test('tile it without gap or overlap, whatever the width', () => {
    fc.assert(
      fc.property(someFrames, fc.integer({ min: 1, max: 1500 }), (frames, pixels) => {
        const columns = columnsOf(modelOf(frames), pixels);
        expect(columns[0]!.first).toBe(frames[0]);
        expect(columns.at(-1)!.last).toBe(frames.at(-1));
        columns.slice(1).forEach((column, at) => {
          expect(column.first).toBe(columns[at]!.last + 1);
          expect(column.x).toBeCloseTo(columns[at]!.x + columns[at]!.width, 6);
        });
      }),
      { numRuns: 30 },
    );
  });

  test('tell every missing frame, even at a pixel for many', () => {
    fc.assert(
      fc.property(someFrames, fc.integer({ min: 1, max: 400 }), (frames, pixels) => {
        const model = modelOf(frames);
        const columns = columnsOf(model, pixels);
        for (const frame of framesOf(model.missing)) {
          expect(columns.find((column) => frame >= column.first && frame <= column.last)!.kind).toBe('missing');
        }
      }),
      { numRuns: 30 },
    );
  });

  test('one bad frame among 100,000 is still seen', () => {
    const frames = Array.from({ length: 100_000 }, (_, at) => at).filter((frame) => frame !== 61_803);
    const columns = columnsOf(modelOf(frames, { suspect: [{ first: 9, last: 9, step: 1 }] }), 600);
    expect(columns).toHaveLength(600);
    expect(columns.filter(({ kind }) => kind === 'missing')).toHaveLength(1);
    expect(columns.filter(({ suspect }) => suspect)).toHaveLength(1);
  });

  test('what is neither there nor missing is still to come', () => {
    const columns = columnsOf({ ...modelOf([1, 2, 3]), last: 6 }, 6);
    expect(columns.map(({ kind }) => kind)).toEqual(['present', 'present', 'present', 'absent', 'absent', 'absent']);
  });

  test('shade goes with weight; frames that hardly differ are of one', () => {
    const shades = (weights: number[]) => columnsOf(modelOf([1, 2, 3], { weights }), 3).map(({ weight }) => weight);
    expect(shades([100, 200, 300])).toEqual([0, 0.5, 1]);
    expect(new Set(shades([1000, 1001, 1002])).size).toBe(1);
  });
});

test('a place on the strip is a frame, and the words say what is seen', () => {
  const model = modelOf([1, 2, 4, 5]);
  expect([0, 0.39, 0.41, 0.999, 1].map((share) => frameUnder(model, share))).toEqual([1, 2, 3, 5, 5]);
  expect(isPresent(model, 3)).toBe(false);
  expect(stripWords(model)).toBe('4 frames from 1 to 5, 1 missing');
});

test('findings that touch frames make them suspect, missing and doubled ones have their own sign', () => {
  const where = [{ first: 2, last: 2, step: 1 }];
  const strip = stripOf({
    coverage: [{ first: 1, last: 3, step: 1 }],
    weights: [1],
    doubled: [{ frame: 3 }],
    findings: [
      { code: 'empty-file', frames: where },
      { code: 'missing-frames', frames: [{ first: 9, last: 9, step: 1 }] },
      { code: 'listing-order' },
    ],
  });
  expect(strip.suspect).toEqual(where);
  expect(strip.doubled).toEqual([{ first: 3, last: 3, step: 1 }]);
});
