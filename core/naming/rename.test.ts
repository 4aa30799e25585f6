import fc from 'fast-check';
import { foldName, nameFault } from './names.ts';
import { mendingSpec } from './mend.ts';
import { planRename } from './rename.ts';
import { faultCodes, relationKinds, type RenamePlan } from './renamePlan.ts';
import { namingSpecSchema, type NameRuleInput, type NamingSpecInput } from './rules.ts';
import { numbered, sourcesOf } from './testing.ts';
import { runs } from '../testRuns.ts';

const four = (frame: number) => String(frame).padStart(4, '0');

/** A plan over the names of one folder; what else lies there is in the way. */
function plan(
  names: readonly string[],
  rules: NameRuleInput[],
  more: Partial<NamingSpecInput> = {},
  there: string[] = [],
) {
  const spec = namingSpecSchema.parse({ version: 1, rules, ...more });
  const into = spec.mode === 'rename' ? 'a' : (spec.into.root ?? 'a');
  return planRename(sourcesOf('f', names), spec, {
    root: 'a',
    into,
    names: (folder) => (folder !== 'f' ? [] : into === 'a' ? [...names, ...there] : there),
  });
}
const codes = ({ problems }: RenamePlan) => problems.map(({ code }) => code);
const pairs = ({ from, to }: RenamePlan) => from.map((name, at) => `${name} > ${to[at]!}`);
const kinds = ({ relation }: RenamePlan) => [...relation].map((at) => relationKinds[at]);

describe('numbers', () => {
  test('auto takes as many digits as the range needs', () => {
    const made = plan(
      numbered(8, 11, (frame) => `pan_${frame}.png`),
      [{ kind: 'number', digits: 'auto' }],
    );
    expect(made.to).toEqual(['pan_08.png', 'pan_09.png', 'pan_10.png', 'pan_11.png']);
    expect(kinds(made)).toEqual(['new', 'new', 'same', 'same']);
    expect(made.counts.changed).toBe(2);
    expect(made.groups[0]).toMatchObject({ changed: 2, reads: 'pan_##.png 8-11' });
  });

  test.each([
    ['first', { first: 1001 }, [1001, 1002, 1004, 1007]],
    ['gaps closed', { first: 1, gaps: 'close' as const }, [1, 2, 3, 4]],
    ['step', { first: 0, step: 10 }, [0, 10, 30, 60]],
    ['gaps closed by step', { first: 0, step: 2, gaps: 'close' as const }, [0, 2, 4, 6]],
    ['kept', {}, [1, 2, 4, 7]],
  ])('%s', (_, rule, wanted) => {
    const made = plan(
      [1, 2, 4, 7].map((frame) => `pan.${four(frame)}.exr`),
      [{ kind: 'number', ...rule }],
    );
    expect(made.to).toEqual(wanted.map((frame) => `pan.${four(frame)}.exr`));
  });

  test('every tenth becomes every one by a step, and its own step is kept without', () => {
    const names = [10, 20, 40, 50].map((frame) => `pan.${four(frame)}.exr`);
    expect(plan(names, [{ kind: 'number', first: 1, step: 1 }]).to).toEqual(
      [1, 2, 4, 5].map((frame) => `pan.${four(frame)}.exr`),
    );
    expect(plan(names, [{ kind: 'number', first: 0 }]).to).toEqual(
      [0, 10, 30, 40].map((frame) => `pan.${four(frame)}.exr`),
    );
  });

  test('1-20 to 2-21 overlaps, and is no collision', () => {
    const made = plan(
      numbered(1, 20, (frame) => `p.${four(frame)}.png`),
      [{ kind: 'number', first: 2 }],
    );
    expect(made.problems).toEqual([]);
    expect(made.counts).toMatchObject({ changed: 20, overlaps: 19, swaps: 0, faults: 0 });
  });

  test('names padded differently get the padding of the rest', () => {
    const names = ['pan.0001.exr', 'pan.0002.exr', 'pan.03.exr', 'pan.0004.exr', 'pan.0005.exr'];
    const made = plan(
      names,
      mendingSpec('mixed-padding', { pattern: { prefix: 'pan.', padding: 4, suffix: '.exr' } })!.rules,
    );
    expect(pairs(made).filter((line) => line.split(' > ')[0] !== line.split(' > ')[1])).toEqual([
      'pan.03.exr > pan.0003.exr',
    ]);
    expect(codes(plan(names, []))).toEqual(['nothing-changes']);
  });

  test('an ending in capitals is spelled like the others by that rule', () => {
    const made = plan(['a.1.png', 'a.2.PNG', 'a.3.png'], [{ kind: 'spelling' }]);
    expect(made.to).toEqual(['a.1.png', 'a.2.png', 'a.3.png']);
    expect(kinds(made)).toEqual(['same', 'case', 'same']);
  });
});

describe('the stack', () => {
  test.each<[string, NameRuleInput[], string]>([
    [
      'template',
      [{ kind: 'template', template: '{folder}-{stem:upper}.{frame:6}.{ext}' }],
      'f-DEPOT PAN_FINAL.000001.png',
    ],
    ['find as text', [{ kind: 'replace', find: '_Final', with: '$1' }], 'Depot Pan$1.0001.png'],
    ['find in any case', [{ kind: 'replace', find: 'DEPOT ', anyCase: true }], 'Pan_Final.0001.png'],
    [
      'an expression',
      [{ kind: 'replace', as: 'expression', find: '(\\w+) (\\w+)_Final', with: '$2_$1' }],
      'Pan_Depot.0001.png',
    ],
    [
      'the whole name',
      [{ kind: 'replace', as: 'expression', find: '\\.0+', with: '-', where: 'whole' }],
      'Depot Pan_Final-1.png',
    ],
    ['the ending', [{ kind: 'replace', find: 'png', with: 'apng', where: 'ending' }], 'Depot Pan_Final.0001.apng'],
    ['letters', [{ kind: 'case', to: 'lower' }], 'depot pan_final.0001.png'],
    ['words', [{ kind: 'case', to: 'words', where: 'stem' }], 'Depot Pan_Final.0001.png'],
    ['separators', [{ kind: 'separators', to: '_' }], 'Depot_Pan_Final.0001.png'],
    ['trimming', [{ kind: 'trim', start: 5, end: 5 }], 'Pan.0001.png'],
    ['characters', [{ kind: 'characters', keep: '', with: '' }], 'DepotPanFinal.0001.png'],
    [
      'the order counts',
      [
        { kind: 'case', to: 'upper', where: 'stem' },
        { kind: 'replace', find: 'PAN', with: 'pan' },
      ],
      'DEPOT pan_FINAL.0001.png',
    ],
    [
      'a rule that is off',
      [
        { kind: 'case', to: 'lower', on: false },
        { kind: 'number', before: '_' },
      ],
      'Depot Pan_Final_0001.png',
    ],
  ])('%s', (_, rules, wanted) => {
    expect(
      plan(
        numbered(1, 3, (frame) => `Depot Pan_Final.${four(frame)}.png`),
        rules,
      ).to[0],
    ).toBe(wanted);
  });

  test('accents and other letters become plain ones', () => {
    expect(plan(['Straßenbahn Ærø déjà.png'], [{ kind: 'characters' }]).to).toEqual(['Strassenbahn_AEro_deja.png']);
  });

  test('facts of the source fill the fields, and one that is not known refuses', () => {
    const [item] = sourcesOf(
      'shots/040',
      numbered(1, 2, (frame) => `pan_v02.${four(frame)}.exr`),
      { version: 2 },
    );
    item!.source.facts = {
      width: 1920,
      height: 1080,
      format: 'exr',
      sample: 'f16',
      channels: [],
      hasAlpha: false,
      more: [],
    };
    item!.declaration.rate = { value: { num: 24_000, den: 1001 }, grounds: 'word', detail: '' };
    const spec = (template: string) => namingSpecSchema.parse({ version: 1, rules: [{ kind: 'template', template }] });
    const ground = { root: 'a', into: 'a', names: () => [] };
    const made = (template: string) => planRename([item!], spec(template), ground);
    expect(
      made('{folder}_v{version:3}_{width}x{height}_{depth}_{rate}_{date}_{index:2}_{counter}.{frame}.{ext}').to[1],
    ).toBe('040_v002_1920x1080_16_23.976_2026-11-25_02_2.0002.exr');
    item!.declaration.rate = { value: null, grounds: 'none', detail: '' };
    expect(made('{stem}_{rate}.{frame}.{ext}').problems[0]).toMatchObject({
      code: 'field-unknown',
      wayOut: expect.stringContaining('Declare'),
    });
  });

  test.each<[string, NameRuleInput[], string]>([
    ['an unknown field', [{ kind: 'template', template: '{name}.{frame}.{ext}' }], 'bad-template'],
    ['an open brace', [{ kind: 'template', template: '{stem.{frame}.{ext}' }], 'bad-template'],
    ['a broken expression', [{ kind: 'replace', as: 'expression', find: '(' }], 'bad-expression'],
    ['look-around', [{ kind: 'replace', as: 'expression', find: '(?<=a)b' }], 'bad-expression'],
    ['what is not there', [{ kind: 'replace', find: 'tram' }], 'matches-nothing'],
    ['nothing to find', [{ kind: 'replace', find: '' }], 'nothing-to-find'],
    ['no number in the name', [{ kind: 'template', template: '{stem}.{ext}' }], 'collision'],
    ['an empty name', [{ kind: 'template', template: '' }], 'empty-name'],
    ['a hidden file', [{ kind: 'template', template: '.{frame}.{ext}' }], 'hidden-name'],
    ['an unfit character', [{ kind: 'template', template: '{stem}:{frame}.{ext}' }], 'unfit-character'],
    ['a folder', [{ kind: 'template', template: '../{frame}.{ext}' }], 'unfit-character'],
    ['a device', [{ kind: 'template', template: 'con.{frame}' }], 'reserved-name'],
    ['a space at the end', [{ kind: 'template', template: '{frame} ' }], 'reserved-name'],
    ['a long name', [{ kind: 'template', template: `${'é'.repeat(125)}{frame:8}` }], 'name-too-long'],
  ])('refuses %s', (_, rules, code) => {
    expect(
      codes(
        plan(
          numbered(1, 3, (frame) => `pan.${four(frame)}.png`),
          rules,
        ),
      ),
    ).toContain(code);
  });

  test('no expression runs for ever', () => {
    const names = numbered(1, 50, (frame) => `${'a'.repeat(200)}!.${four(frame)}.png`);
    const made = plan(names, [{ kind: 'replace', as: 'expression', find: '(a+)+$', with: 'x', where: 'whole' }]);
    expect(codes(made)).toContain('matches-nothing');
  });
});

describe('what is in the way', () => {
  test('a file that is there, one that differs in case, and two that become one', () => {
    const names = numbered(1, 2, (frame) => `pan.${frame}.png`);
    const move: NameRuleInput[] = [{ kind: 'number', first: 5 }];
    expect(codes(plan(names, move, {}, ['pan.6.png']))).toEqual(['taken']);
    expect(codes(plan(names, move, {}, ['PAN.6.png']))).toEqual(['differs-in-case']);
    expect(codes(plan(['é.png'], [{ kind: 'replace', find: 'é', with: 'ö' }], {}, ['o\u0308.png']))).toEqual([
      'differs-in-case',
    ]);
    expect(codes(plan(['a.png', 'b.png'], [{ kind: 'template', template: 'c.{ext}' }]))).toEqual(['collision']);
  });

  test('capital letters alone may change on the spot, not beside a copy', () => {
    expect(plan(['Poster.PNG'], [{ kind: 'case', to: 'lower' }]).problems).toEqual([]);
    expect(codes(plan(['Poster.PNG'], [{ kind: 'case', to: 'lower' }], { mode: 'copy' }))).toEqual(['differs-in-case']);
  });

  test('a swap is told apart from a chain', () => {
    const made = plan(
      ['left.png', 'right.png'],
      [
        { kind: 'replace', find: 'left', with: 'middle' },
        { kind: 'replace', find: 'right', with: 'left' },
        { kind: 'replace', find: 'middle', with: 'right' },
      ],
    );
    expect(made.problems).toEqual([]);
    expect(kinds(made)).toEqual(['swap', 'swap']);
  });

  test('frames of two folders joined end to end, gaps kept inside each', () => {
    const cams = [
      ...sourcesOf(
        'a',
        numbered(1, 3, (frame) => `yard_a.${four(frame)}.jpg`),
      ),
      ...sourcesOf(
        'b',
        [5, 6, 8].map((frame) => `yard_b_${frame}.jpg`),
      ),
      ...sourcesOf('b', ['title.jpg']),
    ];
    const spec = namingSpecSchema.parse({
      version: 1,
      join: true,
      mode: 'copy',
      into: { root: 'out', folder: 'yard' },
    });
    const made = planRename(cams, spec, { root: 'a', into: 'out', names: () => [] });
    expect(made.problems).toEqual([]);
    expect(made.to).toEqual([1, 2, 3, 4, 5, 7, 8].map((frame) => `yard_a.${frame}.jpg`));
    expect(made.groups.map(({ into }) => into)).toEqual(['yard', 'yard', 'yard']);
  });

  test('a number that two files hold stays where it is, and is said', () => {
    const made = plan(['p.0001.png', 'p.0002.png', 'p.2.png', 'p.0003.png'], [{ kind: 'number', first: 10 }]);
    expect(made.doubts.map(({ code }) => code)).toEqual(['doubled-left']);
    expect(made.from).toHaveLength(3);
  });

  test.each([
    ['{path}/clean', 'f/clean', []],
    ['x/{stem}/', 'x/pan', []],
    ['/x/{stem}', undefined, ['bad-template']],
    ['../up', undefined, ['bad-template']],
    ['{frame}', undefined, ['bad-template']],
    ['con', undefined, ['bad-template']],
  ])('the folder %s', (folder, wanted, problems) => {
    const made = plan(
      numbered(1, 2, (frame) => `pan.${frame}.png`),
      [],
      { mode: 'copy', into: { root: 'out', folder } },
    );
    expect(made.groups[0]?.into).toBe(wanted);
    expect(codes(made)).toEqual(problems);
  });
});

test('whatever the rules: a plan without problems gives every file a fit name of its own, and none that is taken', () => {
  const text = fc.string({ maxLength: 4, unit: fc.constantFrom('a', 'B', '_', '.', ' ', 'é', '1', '$') });
  const rule = fc.oneof(
    fc.record({
      kind: fc.constant('number' as const),
      first: fc.option(fc.integer({ min: 0, max: 6 })),
      gaps: fc.constantFrom('keep' as const, 'close' as const),
      digits: fc.constantFrom(null, 'auto' as const, 2),
    }),
    fc.record({
      kind: fc.constant('replace' as const),
      find: text,
      with: text,
      where: fc.constantFrom('stem' as const, 'whole' as const, 'ending' as const),
    }),
    fc.record({
      kind: fc.constant('case' as const),
      to: fc.constantFrom('lower' as const, 'upper' as const, 'words' as const),
    }),
    fc.record({ kind: fc.constant('trim' as const), start: fc.nat(2), end: fc.nat(2) }),
    fc.record({
      kind: fc.constant('template' as const),
      template: fc.constantFrom('{stem}{frame}.{ext}', '{tail}{frame:3}', '{counter}.{ext}', 'x{index}'),
    }),
  );
  const names = fc.uniqueArray(
    fc.constantFrom(
      ...[
        'a.1.png',
        'a.2.png',
        'a.3.png',
        'a.4.png',
        'a.03.png',
        'B.1.png',
        'B.2.png',
        'b.1.png',
        'x.png',
        'y.PNG',
        'é.png',
      ],
    ),
    { minLength: 1 },
  );
  fc.assert(
    fc.property(names, fc.array(rule, { maxLength: 3 }), (all, rules) => {
      const [some, rest] = [all.slice(0, Math.ceil(all.length / 2)), all.slice(Math.ceil(all.length / 2))];
      const made = plan(some, rules, {}, rest);
      if (made.problems.length > 0) return;
      const stay = [...some, ...rest].filter((name) => !made.from.includes(name));
      const after = [...stay, ...made.to];
      expect(new Set(after).size).toBe(after.length);
      made.to.forEach((name, at) => {
        if (name === made.from[at]) return;
        expect(nameFault(name)).toBeUndefined();
        expect(after.filter((other) => foldName(other) === foldName(name))).toHaveLength(1);
      });
      expect([...made.fault].every((code) => faultCodes[code] === 'none')).toBe(true);
    }),
    { numRuns: runs(2000) },
  );
});
