import type { PlannedPart } from '@shale/contract';
import { countsOf, needOf, needsOf } from './needs.ts';

const part = (source: string, more: Partial<PlannedPart> = {}): PlannedPart => ({
  source,
  output: 0,
  frames: 10,
  files: 10,
  into: { root: 'results', folder: source, pattern: 'a.####.png', stem: 'a', isVideo: false },
  missing: '',
  differs: false,
  problems: [],
  losses: [],
  digest: '0',
  taken: 0,
  kept: 0,
  leftOver: '',
  breaches: [],
  ...more,
});
const problem = (code: string) => ({ code, fact: `It is ${code}.`, wayOut: 'Mend it.' });
const film = { num: 24, den: 1 };
const video = { root: 'results', folder: '', pattern: 'a.mp4', stem: 'a', isVideo: true };

test('a need that several have is mended for all of them by one press', () => {
  const parts = [
    part('a', { problems: [problem('rate-not-declared')] }),
    part('b', { problems: [problem('rate-not-declared')] }),
    part('c'),
  ];
  const need = needOf([parts[0]!], needsOf(parts, film));
  expect(need).toMatchObject({ severity: 'doubt', words: 'Rate not declared', stops: true });
  expect(need!.mend).toEqual({ words: '24 fps for these 2', mend: { kind: 'rate', rate: film, sources: ['a', 'b'] } });
  expect(needOf([parts[2]!], needsOf(parts, film))).toBeUndefined();
});

test('what no press mends is told in its own words', () => {
  const parts = [part('a', { problems: [problem('crop-outside')] })];
  expect(needOf(parts, needsOf(parts, film))).toEqual({
    severity: 'fault',
    words: 'It is crop-outside.',
    stops: true,
  });
});

test('missing frames are told where they are left out, and stop nothing', () => {
  const parts = [part('a', { missing: '7-8' }), part('b', { missing: '3' })];
  const needs = needsOf(parts, film);
  expect(needOf([parts[0]!], needs)).toMatchObject({
    words: '2 frames missing',
    stops: false,
    mend: { words: 'Repeat the previous frame for these 2' },
  });
  expect(
    needOf(
      [parts[0]!],
      needsOf(parts, film, () => false),
    ),
  ).toBeUndefined();
});

test('files and videos are counted apart, and what is new by itself', () => {
  const review = part('a', { output: 1, files: 1, into: video });
  expect(countsOf([part('a')])).toBe('10');
  expect(countsOf([part('a'), review])).toBe('10 + 1');
  expect(countsOf([review])).toBe('1 video');
  expect(countsOf([part('a', { kept: 10 }), { ...review, kept: 1 }])).toBe('complete');
  expect(countsOf([part('a', { kept: 7 }), review])).toBe('4 new');
});

test('what a receiver would trip over is told in the row, and mended for all of them', () => {
  const breach = { rule: 'formats' as const, name: 'a', sentence: 'It reads PNG alone.' };
  const parts = [part('a', { breaches: [breach] }), part('b', { breaches: [{ ...breach, unknown: true }] }), part('c')];
  const needs = needsOf(parts, film);
  expect(needOf([parts[0]!], needs)).toEqual({
    ...{ severity: 'fault', words: '1 rule of the receiver broken', why: 'It reads PNG alone.', stops: false },
    mend: { words: 'Mend for these 2', mend: { kind: 'receiver' } },
  });
  expect(needOf([parts[1]!], needs)).toMatchObject({ severity: 'doubt' });
  expect(needOf([parts[2]!], needs)).toBeUndefined();
});
