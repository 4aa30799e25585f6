import fc from 'fast-check';
import { nameFault, foldName } from './names.ts';
import { digitsFor, numbersOf, renumber, stepOf } from './numbers.ts';
import { plainText, splitName, splitParts } from './parts.ts';
import { nameRuleSchema, newRule, type NameRuleInput, type NameRuleKind } from './rules.ts';
import { modeWords, namingSentence, ruleWords } from './sentence.ts';
import { namingSpecSchema } from './rules.ts';
import { inCase } from './template.ts';

test.each([
  ['bell_turn_', '.png', { stem: 'bell_turn', gap: '_', tail: '', ext: 'png' }],
  ['', '.jpg', { stem: '', gap: '', tail: '', ext: 'jpg' }],
  ['frame_', '_left.png', { stem: 'frame', gap: '_', tail: '_left', ext: 'png' }],
  ['Render (', ').png', { stem: 'Render (', gap: '', tail: ')', ext: 'png' }],
  ['p.', '', { stem: 'p', gap: '.', tail: '', ext: '' }],
])('%s#%s is taken apart', (prefix, suffix, parts) => {
  expect(splitParts(prefix, suffix)).toEqual(parts);
});

test('a name is its parts again, whatever it is', () => {
  fc.assert(
    // A dot alone is the folder itself, never a file.
    fc.property(
      fc.string({ minLength: 1 }).filter((name) => name !== '.'),
      (name) => {
        const { stem, ext } = splitName(name);
        expect(ext === '' && !name.endsWith('.') ? stem : `${stem}.${ext}`).toBe(name);
      },
    ),
  );
});

test('plain text holds nothing but what is kept', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme' }), fc.constantFrom('', '_', '_-', '.]^\\'), (text, keep) => {
      const plain = plainText(text, { keep, with: keep.includes('_') ? '_' : '' });
      expect([...plain].every((letter) => /[A-Za-z0-9]/.test(letter) || keep.includes(letter))).toBe(true);
      expect(plainText(plain, { keep, with: '' })).toBe(plain);
    }),
  );
});

test.each([
  ['lower', 'depot pan_v02'],
  ['upper', 'DEPOT PAN_V02'],
  ['words', 'Depot Pan_V02'],
] as const)('%s', (as, wanted) => expect(inCase('Depot pan_v02', as)).toBe(wanted));

test.each([
  ['con', 'reserved-name'],
  ['CON.0001.png', 'reserved-name'],
  ['com1.png', 'reserved-name'],
  ['lpt¹.png', 'reserved-name'],
  ['console.png', undefined],
  ['nul', 'reserved-name'],
  ['null.png', undefined],
  ['a.', 'reserved-name'],
  [' a', 'reserved-name'],
  ['a\u0007b', 'unfit-character'],
  ['a\\b', 'unfit-character'],
  ['..', 'hidden-name'],
  ['', 'empty-name'],
  ['x'.repeat(255), undefined],
  ['x'.repeat(256), 'name-too-long'],
  ['é'.repeat(128), 'name-too-long'],
  ['é'.repeat(127), undefined],
])('the name %j', (name, code) => expect(nameFault(name)?.code).toBe(code));

test('names that a system takes for one fold to one', () => {
  expect(foldName('\u00c9cran.PNG')).toBe(foldName('e\u0301cran.png'));
  expect(foldName('a')).not.toBe(foldName('á'));
});

test('numbers: the step that is their own, and every mapping keeps their order and count', () => {
  expect(
    stepOf([
      { first: 10, last: 50, step: 10 },
      { first: 65, last: 65, step: 1 },
    ]),
  ).toBe(5);
  expect(stepOf([{ first: 3, last: 3, step: 1 }])).toBe(1);
  expect(digitsFor([numbersOf([{ first: -5, last: 120, step: 1 }])])).toBe(3);
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.integer({ min: -500, max: 500 }), { minLength: 1, maxLength: 30 }),
      fc.option(fc.integer({ min: 1, max: 9 })),
      fc.constantFrom('keep' as const, 'close' as const),
      fc.integer({ min: 0, max: 2000 }),
      (frames, step, gaps, first) => {
        const numbers = Float64Array.from(frames.sort((a, b) => a - b));
        const own = stepOf(frames.map((frame) => ({ first: frame, last: frame, step: 1 })));
        const next = renumber(numbers, { step, gaps }, own, first);
        expect(next[0]).toBe(first);
        expect(next).toHaveLength(numbers.length);
        next.forEach((number, at) => {
          expect(Number.isInteger(number)).toBe(true);
          if (at > 0) expect(number).toBeGreaterThan(next[at - 1]!);
        });
        if (gaps === 'close') expect(next[next.length - 1]).toBe(first + (next.length - 1) * (step ?? 1));
      },
    ),
  );
});

test.each<[NameRuleInput, string]>([
  [{ kind: 'number', first: 1001, digits: 4, before: '.' }, 'numbers from 1001, 4 digits, a dot before it'],
  [{ kind: 'number', step: 2, gaps: 'close' }, 'numbers by 2, gaps closed'],
  [{ kind: 'number' }, 'numbers written alike'],
  [{ kind: 'template', template: '{stem}.{ext}' }, 'named {stem}.{ext}'],
  [{ kind: 'replace', find: 'a', with: '' }, 'a becomes nothing'],
  [{ kind: 'replace', find: 'a', with: 'b', where: 'ending' }, 'a becomes b in the ending'],
  [{ kind: 'case', to: 'lower', where: 'ending' }, 'small letters in the ending'],
  [{ kind: 'separators', to: '_' }, 'an underscore between words'],
  [{ kind: 'trim', start: 1, end: 2 }, '1 letter off the start, 2 letters off the end'],
  [{ kind: 'trim' }, 'ends tidied'],
  [{ kind: 'characters', keep: '' }, 'letters and digits only'],
  [{ kind: 'spelling' }, 'spelled alike'],
])('%j reads as a person says it', (rule, words) => {
  expect(ruleWords(nameRuleSchema.parse(rule))).toBe(words);
});

test('a stack reads as one sentence, without what is off', () => {
  const spec = namingSpecSchema.parse({
    version: 1,
    mode: 'copy',
    join: true,
    rules: [{ kind: 'spelling', on: false }, newRule('case')],
  });
  expect(namingSentence(spec, 1, 'results/x')).toBe('Copy 1 file into results/x, joined end to end: small letters.');
  for (const kind of [
    'template',
    'number',
    'replace',
    'case',
    'separators',
    'trim',
    'characters',
    'spelling',
  ] as NameRuleKind[])
    expect(newRule(kind)).toMatchObject({ kind, on: true });
  expect(Object.values(modeWords)).toHaveLength(4);
});

test('unknown fields, wrong kinds and versions to come are refused', () => {
  for (const spec of [
    { version: 2 },
    { version: 1, extra: 1 },
    { version: 1, rules: [{ kind: 'zap' }] },
    { version: 1, rules: [{ kind: 'number', step: 0 }] },
    { version: 1, rules: [{ kind: 'trim', start: -1 }] },
  ])
    expect(namingSpecSchema.safeParse(spec).success).toBe(false);
});
