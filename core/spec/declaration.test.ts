import fc from 'fast-check';
import type { Facts, Source } from '../numbering/source.ts';
import { driftPerMinute, printDrift } from '../timing/drift.ts';
import { makeRate, parseRate, standardRates } from '../timing/rate.ts';
import { declare, rateBySound, rateInName, ruleFor } from './declaration.ts';
import { allFindings, declaredFindings } from './declaredFindings.ts';

const source = (more: Partial<Source> = {}): Source => ({
  kind: 'sequence',
  folder: '',
  name: 'walk.#.png',
  pattern: { prefix: 'walk.', padding: 1, suffix: '.png' },
  coverage: [{ first: 1, last: 96, step: 1 }],
  irregular: [],
  doubled: [],
  files: 96,
  bytes: 96,
  modified: 0,
  weights: [1],
  findings: [],
  ...more,
});
const facts = (more: Partial<Facts> = {}): Facts => ({
  width: 4,
  height: 4,
  format: 'tga',
  sample: 'u8',
  channels: ['R', 'G', 'B'],
  hasAlpha: false,
  more: [],
  ...more,
});
const rate = (one: Source) => declare(one).rate;

test.each([
  ['walk_24fps/walk.#.png', '24'],
  ['12 FPS/walk.#.png', '12'],
  ['plate_23976/pan.#.exr', '24000/1001'],
  ['plate 29.97 fps/pan.#.exr', '30000/1001'],
  ['plate_59_94fps/pan.#.exr', '60000/1001'],
  ['24fps/late_25fps/pan.#.exr', '25'],
  ['shot_2997_x/pan.#.exr', '30000/1001'],
  ['fpsless/24/pan.#.exr', undefined],
  ['take_239761/pan.#.exr', undefined],
  ['24fpsx/pan.#.exr', undefined],
])('%s says %s', (path, said) =>
  expect(rateInName(path)?.rate).toEqual(said === undefined ? undefined : parseRate(said)),
);

test('a sound of matching length is grounds for a rate, two that disagree are none', () => {
  const seconds = (num: number, den = 1) => ({ num, den });
  expect(rateBySound(96, seconds(4))).toEqual({ num: 24, den: 1 });
  expect(rateBySound(96, seconds(4004, 1000))).toEqual(makeRate(24_000, 1001));
  expect(rateBySound(97, seconds(4))).toBeUndefined();
  fc.assert(
    fc.property(fc.constantFrom(...standardRates), fc.integer({ min: 12, max: 100_000 }), (one, frames) => {
      const found = rateBySound(frames, { num: frames * one.den, den: one.num })!;
      // Exact, or another rate that gives the same length exactly.
      expect(found.num * one.den).toBe(one.num * found.den);
    }),
  );
  expect(rate(source({ beside: [{ name: 'walk.wav', seconds: seconds(4) }] }))).toMatchObject({
    value: { num: 24, den: 1 },
    grounds: 'sound',
  });
  const two = [
    { name: 'a.wav', seconds: seconds(4) },
    { name: 'b.wav', seconds: seconds(8) },
  ];
  expect(rate(source({ beside: two })).value).toBeNull();
});

test('your word goes before a rule, a rule before the file, and a rule does not hide what the file says', () => {
  const one = source({ folder: 'a/b', facts: facts({ rate: { num: 24, den: 1 } }) });
  const rules = [
    { folder: '', word: { rate: { num: 30, den: 1 } } },
    { folder: 'a', word: { rate: { num: 25, den: 1 } } },
    { folder: 'a/bc', word: { rate: { num: 50, den: 1 } } },
  ];
  const rule = ruleFor(rules, one.folder);
  expect(rule?.folder).toBe('a');
  expect(declare(one, {}, rule).rate).toEqual({
    value: { num: 25, den: 1 },
    grounds: 'rule',
    detail: 'rule for a; the file says 24 fps',
  });
  expect(declare(one, { rate: { num: 12, den: 1 } }, rule).rate).toEqual({
    value: { num: 12, den: 1 },
    grounds: 'word',
  });
  expect(declare(one).rate.grounds).toBe('file');
});

test('every other fact has its grounds; what nothing says is not declared', () => {
  const bare = declare(source({ facts: facts({ hasAlpha: true, channels: ['R', 'G', 'B', 'A'] }) }));
  expect([bare.rate.value, bare.alpha.value, bare.transfer.value, bare.primaries.value]).toEqual([
    null,
    null,
    null,
    null,
  ]);
  expect(bare.first).toMatchObject({ value: 1, grounds: 'name' });
  const exr = declare(
    source({ facts: facts({ format: 'exr', primaries: 'acescg', pixelAspect: { num: 2, den: 1 } }) }),
  );
  expect(exr).toMatchObject({
    transfer: { value: 'linear', grounds: 'format' },
    primaries: { value: 'acescg', grounds: 'file' },
    pixelAspect: { value: { num: 2, den: 1 }, grounds: 'file' },
  });
  expect(declare(source({ facts: facts({ format: 'dpx', transfer: 'film-log' }) })).transfer.value).toBe('film-log');
  expect(declare(source({ facts: facts({ transfer: 'its own profile' }) })).transfer).toMatchObject({
    value: null,
    detail: 'the file says its own profile',
  });
});

test('30 against 29.97 slips 1.8 frames a minute, exactly 1800/1001', () => {
  expect(driftPerMinute({ num: 30, den: 1 }, { num: 30_000, den: 1001 })).toEqual({ num: 1800, den: 1001 });
  expect(printDrift({ num: 30, den: 1 }, { num: 30_000, den: 1001 })).toBe('1.8 frames/min');
  expect(printDrift({ num: 24, den: 1 }, { num: 24, den: 1 })).toBe('');
});

describe('counts and lengths', () => {
  const codes = (one: Source) =>
    allFindings(one, declare(one, { rate: { num: 24, den: 1 } })).map(({ short }) => short);
  test('pictures that are not read are told before anyone chooses them', () => {
    const inks = source({ facts: facts({ format: 'jpeg', channels: ['C', 'M', 'Y', 'K'] }) });
    expect(declaredFindings(inks, declare(inks)).map(({ code, severity }) => [code, severity])).toEqual([
      ['format-not-read', 'fault'],
    ]);
    const plain = source({ facts: facts({ format: 'jpeg' }) });
    expect(declaredFindings(plain, declare(plain))).toEqual([]);
  });

  test('a sound of the same name', () => {
    const beside = (num: number) => [{ name: 'Walk.wav', seconds: { num, den: 1 } }];
    expect(codes(source({ beside: beside(4) }))).toEqual([]);
    expect(codes(source({ beside: beside(5) }))).toEqual(['24 frames too few for its sound']);
    expect(codes(source({ beside: [{ name: 'rain.wav', seconds: { num: 60, den: 1 } }] }))).toEqual([]);
  });

  test('what a header says of its sequence, a clip of its length, a name against the file', () => {
    expect(codes(source({ facts: facts({ sequenceLength: 100 }) }))).toEqual(['4 frames too few']);
    const clip = (frames: number) =>
      source({
        kind: 'clip',
        pattern: undefined,
        coverage: [{ first: 0, last: frames - 1, step: 1 }],
        facts: facts({ frames, seconds: { num: 10, den: 1 }, rate: { num: 25, den: 1 } }),
      });
    expect(codes(clip(250))).toEqual([]);
    expect(codes(clip(240))).toEqual(['10 frames too few']);
    const two = source({ folder: 'walk_12fps', facts: facts({ rate: { num: 24, den: 1 } }) });
    expect(codes(two)).toEqual(['Two rates stated']);
  });
});
