import type { ListedSource } from '@shale/contract';
import { declare, type Source } from '@shale/core';
import { changeWords, framesAndTime, isUndeclared, plural, printAge, printBytes, printLeft, takenAs } from './words.ts';

test.each([
  [0, '0 B'],
  [1023, '1023 B'],
  [1024, '1.0 KiB'],
  [43_000_000, '41 MiB'],
  [3 * 2 ** 30, '3.0 GiB'],
])('%i bytes', (bytes, words) => expect(printBytes(bytes)).toBe(words));

test.each([
  [10, 'just now'],
  [120, '2 minutes ago'],
  [7200, '2 hours ago'],
  [9 * 86_400, '9 days ago'],
])('%i seconds ago', (seconds, words) => {
  const now = Date.parse('2026-11-24T12:00:00Z');
  expect(printAge(new Date(now - seconds * 1000).toISOString(), now)).toBe(words);
});

test.each([
  [0.2, '1 s'],
  [89, '89 s'],
  [600, '10 min'],
  [7200, '2.0 h'],
])('%d seconds left', (seconds, words) => expect(printLeft(seconds)).toBe(words));

test('counts', () => {
  expect([plural(1, 'frame'), plural(1284, 'file'), plural(0, 'source')]).toEqual([
    '1 frame',
    '1,284 files',
    '0 sources',
  ]);
  expect(framesAndTime([{ first: 1, last: 48, step: 1 }], { num: 24, den: 1 })).toBe('48 frames, 2.00 s');
  expect(framesAndTime([{ first: 1, last: 48, step: 1 }], null)).toBe('48 frames');
});

function listed(more: Partial<Source>): ListedSource {
  const source: Source = {
    kind: 'sequence',
    folder: '',
    name: 'a.#.tga',
    coverage: [{ first: 1, last: 2, step: 1 }],
    irregular: [],
    doubled: [],
    files: 2,
    bytes: 2,
    modified: 0,
    weights: [1],
    findings: [],
    ...more,
  };
  return { ...source, id: 'x', root: 'r', declaration: declare(source) };
}

test('what is not declared says so', () => {
  const facts = {
    width: 1,
    height: 1,
    format: 'tga',
    sample: 'u8' as const,
    channels: ['R', 'G', 'B', 'A'],
    hasAlpha: true,
    more: [],
  };
  expect(takenAs(listed({ facts }))).toEqual({
    rate: 'not declared',
    grounds: 'nothing says',
    pixels: 'alpha undecided, transfer undecided',
    undecided: true,
  });
  expect(isUndeclared(listed({}))).toBe(true);
  expect(isUndeclared(listed({ kind: 'still' }))).toBe(false);
  expect(isUndeclared(listed({ folder: 'b_24fps' }))).toBe(false);
});

test('a change is told for a day', () => {
  const at = Date.parse('2026-11-24T12:00:00Z');
  const changed = (change: { added: number; edited: number; removed: number }, kind: Source['kind'] = 'sequence') =>
    changeWords({ kind, change: { at, ...change } }, at + 120_000);
  expect(changed({ added: 4, edited: 0, removed: 0 })).toBe('4 added 2 minutes ago');
  expect(changed({ added: 0, edited: 1200, removed: 2 })).toBe('1,200 changed, 2 gone 2 minutes ago');
  expect(changed({ added: 0, edited: 1, removed: 0 }, 'clip')).toBe('changed 2 minutes ago');
  expect(
    changeWords({ kind: 'clip', change: { at, added: 1, edited: 0, removed: 0 } }, at + 25 * 3_600_000),
  ).toBeUndefined();
});
