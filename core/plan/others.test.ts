import fc from 'fast-check';
import { framesOf } from '../numbering/ranges.ts';
import { sourcesOf } from '../naming/testing.ts';
import { parseSpec } from '../spec/parse.ts';
import type { Facts } from '../numbering/source.ts';
import { declare } from '../spec/declaration.ts';
import { makePlan } from './make.ts';
import { otherFiles, otherFrame, type Other, type PlannedOther } from './others.ts';
import { rowsOf } from './rows.ts';

const facts: Facts = {
  width: 8,
  height: 8,
  format: 'png',
  sample: 'u8',
  channels: ['R', 'G', 'B', 'A'],
  hasAlpha: true,
  more: [],
};
const numbers = (from: number, to: number) => Array.from({ length: to - from + 1 }, (_, at) => from + at);
const sequence = (stem: string, frames: number[], more: Partial<Facts> = {}): Other => {
  const [found] = sourcesOf(
    'plates',
    frames.map((frame) => `${stem}.${String(frame).padStart(4, '0')}.png`),
  );
  const known = { ...found!.source, facts: { ...facts, ...more } };
  return { root: 'museum', source: known, declaration: declare(known) };
};
const spec = (picture: object) =>
  parseSpec({ version: 1, write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' }, picture });
const named = { root: 'museum', folder: 'plates', name: 'sky.####.png' };
const tram = sequence('tram', numbers(1001, 1010));
const planOf = (picture: object, given: Record<string, Other> = {}) =>
  makePlan('museum', tram.source, tram.declaration, spec(picture), given);

test('a second source goes along frame by frame, moved by its offset; a gap holds the frame before', () => {
  const sky = sequence('sky', [...numbers(1, 4), ...numbers(6, 20)]);
  const plan = planOf({ over: { source: named, offset: 2 } }, { under: sky });
  expect(plan.problems).toEqual([]);
  const files = rowsOf(plan, 0, 10).map(({ sourceFrame }) => otherFiles(plan, sourceFrame).under!.file);
  expect(files.slice(0, 4)).toEqual([3, 4, 4, 6].map((frame) => `plates/sky.000${frame}.png`));
});

test.each([
  ['hold', [1, 2, 3, 3, 3, 3]],
  ['loop', [1, 2, 3, 1, 2, 3]],
] as const)('where it is over it goes on by %s', (ends, wanted) => {
  const other = { source: sequence('sky', [1, 2, 3]).source, offset: 0, ends } as unknown as PlannedOther;
  expect(numbers(1001, 1006).map((frame) => otherFrame(other, frame, 1001))).toEqual(wanted);
  expect(otherFrame({ ...other, offset: -1 }, 1001, 1001)).toBe(ends === 'hold' ? 1 : 3);
});

test('whatever the gaps, the offset and the end, the frame is one that is there', () => {
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.integer({ min: 0, max: 60 }), { minLength: 2, maxLength: 30 }),
      fc.integer({ min: -100, max: 100 }),
      fc.constantFrom('hold' as const, 'loop' as const, 'stop' as const),
      fc.integer({ min: 0, max: 200 }),
      (frames, offset, ends, at) => {
        const { source } = sequence(
          'sky',
          [...frames].sort((a, b) => a - b),
        );
        const frame = otherFrame({ source, offset, ends } as unknown as PlannedOther, at, 50);
        expect([...framesOf(source.coverage)]).toContain(frame);
      },
    ),
  );
});

test('what forbids a second source is said at its field', () => {
  const codes = (picture: object, given: Record<string, Other> = {}) =>
    planOf(picture, given).problems.map(({ code, subject }) => [code, subject]);
  const over = { over: { source: named } };
  expect(codes(over)).toEqual([['other-not-found', 'picture.over']]);
  const short = sequence('sky', numbers(1, 9));
  expect(codes(over, { under: short })).toEqual([['other-too-short', 'picture.over']]);
  expect(codes({ over: { source: named, ends: 'hold' } }, { under: short })).toEqual([]);
  expect(codes({ over: { source: named, offset: -1 } }, { under: sequence('sky', numbers(1, 30)) })).toEqual([
    ['other-too-short', 'picture.over'],
  ]);
  const tga = sequence('sky', numbers(1, 10), { format: 'tga' });
  expect(codes(over, { under: tga })).toEqual([['other-not-declared', 'picture.over']]);
  const sound = { ...short, source: { ...short.source, kind: 'sound' as const, facts: undefined } };
  expect(codes(over, { under: sound })).toEqual([['other-not-frames', 'picture.over']]);
  const opaque = sequence('sky', numbers(1, 10), { channels: ['R', 'G', 'B'], hasAlpha: false });
  expect(codes({ alphaFrom: { source: named, use: 'alpha' } }, { alphaFrom: opaque })).toEqual([
    ['other-without-alpha', 'picture.alphaFrom'],
  ]);
  expect(codes({ alphaFrom: { source: named, use: 'luma' } }, { alphaFrom: opaque })).toEqual([]);
});
