import { describeFolder } from '../numbering/describe.ts';
import { framesOf } from '../numbering/ranges.ts';
import type { Source } from '../numbering/source.ts';
import { declare, type Word } from '../spec/declaration.ts';
import { parseSpec } from '../spec/parse.ts';
import { makePlan } from './make.ts';
import { resultsOf } from './rows.ts';
import { printSentence, sentenceOf } from './sentence.ts';

const names = Array.from({ length: 10 }, (_, at) => `bell_${at + 1}.png`);
const [described] = describeFolder('', { names, bytes: names.map(() => 10), modified: names.map(() => 0) }).sequences;
const ten: Source = {
  ...described!.source,
  facts: {
    ...{ width: 4, height: 4, format: 'png', sample: 'u16' },
    ...{ channels: ['R', 'G', 'B', 'A'], hasAlpha: true, more: [] },
  },
};
const basic = {
  version: 1,
  write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
  names: { stem: 'bell' },
};
const plan = (source: Source, spec: object, word: Word) =>
  makePlan('museum', source, declare(source, word), parseSpec(spec));
const codes = (source: Source, spec: object, word: Word) => plan(source, spec, word).problems.map(({ code }) => code);

describe('frames that are damaged', () => {
  const hurt = (source: Source, frames: number[], checked?: number): Source => ({
    ...source,
    ...(checked ? { checked } : {}),
    findings: [
      ...source.findings,
      {
        code: 'damaged-file',
        severity: 'fault',
        sentence: 'They do not decode.',
        short: 'damaged',
        frames: frames.map((frame) => ({ first: frame, last: frame, step: 1 })),
      },
    ],
  });
  const asMissing = { ...basic, damaged: 'as-missing' };
  const straight = { alpha: 'straight' } as const;

  test('are asked for as any other, each to fail by itself', () => {
    const made = plan(hurt(ten, [4, 5]), basic, straight);
    expect([made.files, made.missing]).toEqual([10, []]);
    expect(made.damaged).toEqual([{ first: 4, last: 5, step: 1 }]);
    expect(printSentence(sentenceOf(made))).toContain('if a frame is damaged fail');
  });

  test('are treated as missing: left out, held, or marked, also at both ends', () => {
    const source = hurt(ten, [1, 4, 10], 10);
    const left = plan(source, asMissing, straight);
    expect(left.problems).toEqual([]);
    expect([...framesOf(left.missing)]).toEqual([1, 4, 10]);
    expect(left.files).toBe(7);
    expect(left.losses.map(({ code }) => code)).toEqual(
      expect.arrayContaining(['damaged-as-missing', 'missing-frames']),
    );
    for (const missing of ['hold', 'slate']) expect(plan(source, { ...asMissing, missing }, straight).files).toBe(10);
    const held = plan(source, { ...asMissing, missing: 'hold' }, straight);
    expect(resultsOf(held, 0, 10).map(({ sourceFrame }) => sourceFrame)).toEqual([2, 2, 3, 3, 5, 6, 7, 8, 9, 9]);
  });

  test('only those that were asked for count', () => {
    const source = hurt(ten, [1, 4, 10], 10);
    const some = plan(source, { ...asMissing, frames: '2-6' }, straight);
    expect([...framesOf(some.missing)]).toEqual([4]);
    expect([...framesOf(some.damaged)]).toEqual([4]);
    expect(plan(source, { ...asMissing, frames: '5-9' }, straight).losses.map(({ code }) => code)).not.toContain(
      'damaged-as-missing',
    );
  });

  test('a video that would stop at one is refused; so is treating as missing what nobody has decoded', () => {
    const video = { write: { format: 'ffv1', sample: 'u8', alpha: 'none', transfer: 'srgb' } };
    const word = { ...straight, rate: { num: 24, den: 1 } };
    expect(codes(hurt(ten, [4]), { ...basic, ...video }, word)).toEqual(['damaged-frames']);
    expect(codes(hurt(ten, [4], 10), { ...asMissing, ...video }, word)).toEqual([]);
    expect(codes(hurt(ten, [4], 9), { ...asMissing, ...video }, word)).toEqual(['not-checked']);
    expect(codes(ten, asMissing, straight)).toEqual(['not-checked']);
    expect(codes(hurt(ten, [4]), { ...basic, ...video, frames: '5-9' }, word)).toEqual([]);
  });
});
