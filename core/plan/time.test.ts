import fc from 'fast-check';
import type { Source } from '../numbering/source.ts';
import { declare } from '../spec/declaration.ts';
import { parseSpec } from '../spec/parse.ts';
import type { SpecInput } from '../spec/schema.ts';
import { frameParts } from '../timing/curve.ts';
import { parseRate, standardRates } from '../timing/rate.ts';
import type { Given } from './given.ts';
import { makePlan } from './make.ts';
import { planSchema } from './plan.ts';
import { resultsOf, rowCount, rowsOf } from './rows.ts';

const sourceOf = (coverage: [number, number][], name = 'f'): Source => ({
  kind: 'sequence',
  folder: 'shots',
  name: `${name}.####.png`,
  pattern: { prefix: `${name}.`, padding: 4, suffix: '.png' },
  coverage: coverage.map(([first, last]) => ({ first, last, step: 1 })),
  irregular: [],
  doubled: [],
  files: 1,
  bytes: 0,
  modified: 0,
  weights: [1],
  findings: [],
  facts: {
    width: 64,
    height: 48,
    format: 'png',
    sample: 'u8',
    channels: ['R', 'G', 'B'],
    hasAlpha: false,
    transfer: 'srgb',
    primaries: 'bt709',
    more: [],
  },
});
const plan = (source: Source, more: Partial<SpecInput>, rate = '24', given: Given = {}) =>
  makePlan(
    'museum',
    source,
    declare(source, { rate: parseRate(rate) }),
    parseSpec({
      version: 1,
      write: { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb' },
      ...more,
    }),
    given,
  );
/** Each result as `frame`, `frame+1/4` between two, `top|bottom`, or what is not there. */
const told = (made: ReturnType<typeof plan>): string[] =>
  rowsOf(made, 0, rowCount(made)).map(({ kind, sourceFrame, mixed }) =>
    kind !== 'write'
      ? `${kind} ${sourceFrame}`
      : mixed?.how === 'lines'
        ? `${sourceFrame}|${mixed.frame}`
        : mixed
          ? `${sourceFrame}+${mixed.weight / frameParts}`
          : `${sourceFrame}`,
  );
const ten = sourceOf([[1, 10]]);
const rate = (num: number, den = 1) => ({ num, den });

test('each frame held, and on twos at the same length', () => {
  const held = plan(ten, { frames: '1-3', time: { how: 'hold', hold: 2 } });
  expect(told(held)).toEqual(['1', '1', '2', '2', '3', '3']);
  expect(held.rate).toEqual(rate(24));
  expect(resultsOf(held, 0, 6).map(({ frame }) => frame)).toEqual([1, 2, 3, 4, 5, 6]);
  expect(told(plan(ten, { time: { stand: 2 } }))).toEqual(['1', '1', '3', '3', '5', '5', '7', '7', '9', '9']);
  expect(told(plan(ten, { time: { stand: 4 } })).slice(7)).toEqual(['5', '9', '9']);
});

test('to another rate at the same speed: by the nearest, by the one before, blended; played at another, every frame stays', () => {
  const to = (num: number, between: 'nearest' | 'before' | 'blend') =>
    plan(ten, { frames: '1-8', time: { how: 'rate', rate: rate(num), between } });
  expect(told(to(30, 'before'))).toEqual(['1', '1', '2', '3', '4', '5', '5', '6', '7', '8']);
  expect(told(to(30, 'nearest'))).toEqual(['1', '2', '3', '3', '4', '5', '6', '7', '7', '8']);
  expect(told(to(12, 'nearest'))).toEqual(['1', '3', '5', '7']);
  expect(told(to(48, 'blend')).slice(0, 5)).toEqual(['1', '1+0.5', '2', '2+0.5', '3']);
  // Nothing is made up behind the last frame.
  expect(told(to(48, 'blend')).slice(-2)).toEqual(['8', '8']);
  expect(to(30, 'nearest').rate).toEqual(rate(30));
  const played = plan(ten, { time: { rate: rate(25) } });
  expect(played.rate).toEqual(rate(25));
  expect(played.frames).toBe(10);
});

test('a result is the frame that big integers give, for every pair of standard rates', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...standardRates),
      fc.constantFrom(...standardRates),
      fc.constantFrom('nearest' as const, 'before' as const),
      fc.integer({ min: 1, max: 3000 }),
      (a, b, between, last) => {
        const made = plan(sourceOf([[0, last]]), { time: { how: 'rate', rate: b, between } }, `${a.num}/${a.den}`);
        const rows = resultsOf(made, 0, made.frames);
        const [up, down] = [BigInt(b.num) * BigInt(a.den), BigInt(b.den) * BigInt(a.num)];
        expect(BigInt(rows.length)).toBe(((n) => (n < 1n ? 1n : n))((2n * BigInt(last + 1) * up + down) / (2n * down)));
        for (const [k, { sourceFrame }] of rows.entries()) {
          const at = between === 'before' ? (BigInt(k) * down) / up : (2n * BigInt(k) * down + up) / (2n * up);
          if (sourceFrame !== Math.min(last, Number(at)))
            throw new Error(`result ${k} is frame ${sourceFrame}, not ${at}`);
        }
      },
    ),
    { numRuns: 60 },
  );
});

test('a curve takes its frames by their own numbers, frozen and backward too, and starts where it is told', () => {
  const made = plan(sourceOf([[1001, 1040]]), {
    time: {
      how: 'curve',
      curve: {
        keys: [
          { from: 1001, to: 0 },
          { from: 1005, to: 2 },
          { from: 1005, to: 4 },
          { from: 1003, to: 6 },
        ],
        backward: true,
      },
    },
    names: { first: 1 },
  });
  expect(told(made)).toEqual(['1001', '1003', '1005', '1005', '1005', '1004', '1003']);
  expect(rowsOf(made, 0, 1)[0]).toMatchObject({ frame: 1, to: 'f/f.0001.png', from: 'shots/f.1001.png' });
  expect(made.losses.map(({ code, amount }) => `${code} ${amount}`)).toEqual([
    'pictures-dropped 36',
    'pictures-doubled 3',
  ]);
  const keyless = plan(ten, { time: { how: 'curve' } });
  expect(keyless.problems.map(({ code }) => code)).toEqual(['curve-too-short']);
  const outside = plan(ten, {
    time: {
      how: 'curve',
      curve: {
        keys: [
          { from: 1, to: 0 },
          { from: 11, to: 4 },
        ],
      },
    },
  });
  expect(outside.problems[0]).toMatchObject({ code: 'key-outside', subject: 'time.curve' });
});

test('what motion cannot be looked for in is refused before a run, and its 8 bits are told', () => {
  const time = { how: 'rate', rate: rate(48), between: 'motion' } as const;
  const of = (facts: Partial<NonNullable<Source['facts']>>) =>
    plan({ ...ten, facts: { ...ten.facts!, ...facts } }, { time });
  expect(of({}).problems).toEqual([]);
  expect(of({ sample: 'f16' }).problems.map(({ code }) => code)).toContain('motion-refused');
  expect(of({ width: 16 }).problems.map(({ code }) => code)).toContain('motion-refused');
  expect(of({ sample: 'u16' }).losses.filter(({ code }) => code === 'depth-reduced').length).toBe(2);
});

test('some of the results are kept, numbered from where it is said', () => {
  const made = plan(ten, { time: { how: 'hold', hold: 3, keep: { first: 4, last: 7 } }, names: { first: 100 } });
  expect(told(made)).toEqual(['2', '2', '3', '3']);
  expect(resultsOf(made, 0, 4).map(({ frame }) => frame)).toEqual([100, 101, 102, 103]);
  expect(plan(ten, { time: { keep: { first: 4, last: 3 } } }).problems.map(({ code }) => code)).toEqual([
    'range-reversed',
  ]);
});

test('a frame that is missing keeps its place in time, and nothing is mixed over a gap', () => {
  const gapped = sourceOf([
    [1, 3],
    [5, 6],
  ]);
  const time = { how: 'rate', rate: rate(48), between: 'blend' } as const;
  expect(told(plan(gapped, { time }))).toEqual([
    '1',
    '1+0.5',
    '2',
    '2+0.5',
    '3',
    'missing 4',
    'missing 4',
    '5',
    '5',
    '5+0.5',
    '6',
    '6',
  ]);
  expect(told(plan(gapped, { time: { how: 'hold' }, missing: 'hold' }))).toEqual([
    '1',
    '1',
    '2',
    '2',
    '3',
    '3',
    '3',
    '3',
    '5',
    '5',
    '6',
    '6',
  ]);
  expect(told(plan(gapped, { time: { how: 'hold' }, missing: 'slate' })).slice(6, 8)).toEqual(['slate 4', 'slate 4']);
});

test('3:2 pulldown goes in and out again', () => {
  const made = plan(ten, { frames: '1-8', time: { pulldown: true } }, '24000/1001');
  expect(told(made)).toEqual(['1', '2', '2|3', '3|4', '4', '5', '6', '6|7', '7|8', '8']);
  expect(made.rate).toEqual(rate(30_000, 1001));
  const bottom = plan(ten, { frames: '1-4', time: { pulldown: true, lines: 'bottom' } }, '24');
  expect(told(bottom)).toEqual(['1', '2', '3|2', '4|3', '4']);
  const back = plan(ten, { time: { undo: 'pulldown' } }, '29.97');
  expect(told(back)).toEqual(['1', '2', '4|3', '5', '6', '7', '9|8', '10']);
  expect(back.rate).toEqual(rate(24_000, 1001));
  expect(plan(ten, { time: { undo: 'pulldown', how: 'hold' } }).problems.map(({ code }) => code)).toEqual([
    'time-combination',
  ]);
});

test('holds that were found are undone, and the rate matches them', () => {
  const holds = { repeats: [{ first: 2, last: 10, step: 2 }], pattern: { fresh: 1, of: 2 } };
  const made = plan(ten, { time: { undo: 'holds' } }, '24', { holds });
  expect(told(made)).toEqual(['1', '3', '5', '7', '9']);
  expect(made.rate).toEqual(rate(12));
  expect(made.runs).toHaveLength(1);
  // A repeat whose first is not taken stays: else nothing would be left of it.
  expect(told(plan(ten, { frames: '2,4,6', time: { undo: 'holds' } }, '24', { holds }))).toEqual(['2', '4', '6']);
  expect(plan(ten, { time: { undo: 'holds' } }).problems.map(({ code }) => code)).toEqual(['holds-not-found']);
});

test('shots follow one another in one numbering, and are retimed as one', () => {
  const second = sourceOf([[101, 104]], 'g');
  const given: Given = { shots: [{ root: 'other', source: second, declaration: declare(second, { rate: rate(24) }) }] };
  const then = [{ source: { root: 'other', folder: 'shots', name: 'g.####.png' }, frames: '102-103' }];
  const made = plan(ten, { frames: '4-6', then, names: { first: 1 } }, '24', given);
  expect(rowsOf(made, 0, 9).map(({ from, to, shot }) => [shot, from, to])).toEqual([
    [0, 'shots/f.0004.png', 'f/f.0001.png'],
    [0, 'shots/f.0005.png', 'f/f.0002.png'],
    [0, 'shots/f.0006.png', 'f/f.0003.png'],
    [1, 'shots/g.0102.png', 'f/f.0004.png'],
    [1, 'shots/g.0103.png', 'f/f.0005.png'],
  ]);
  // Gaps of a shot are told as those of the first are.
  const gapped = {
    ...second,
    coverage: [
      { first: 101, last: 102, step: 1 },
      { first: 104, last: 104, step: 1 },
    ],
  };
  const withGap: Given = {
    shots: [{ root: 'other', source: gapped, declaration: declare(gapped, { rate: rate(24) }) }],
  };
  const all = [{ ...then[0]!, frames: 'all' }];
  expect(plan(ten, { then: all }, '24', withGap).losses[0]).toMatchObject({
    code: 'missing-frames',
    sentence: 'Frame 103 of g.####.png missing: its result will not exist',
  });
  expect(plan(ten, { then: all, missing: 'stop' }, '24', withGap).problems.map(({ code }) => code)).toEqual([
    'missing-frames',
  ]);
  // A cut stays a cut.
  const slow = plan(ten, { frames: '4-6', then, time: { how: 'rate', rate: rate(48), between: 'blend' } }, '24', given);
  expect(rowsOf(slow, 3, 7).map(({ shot, sourceFrame, mixed }) => [shot, sourceFrame, mixed?.weight])).toEqual([
    [0, 5, 512],
    [0, 6, undefined],
    [1, 102, undefined],
    [1, 102, undefined],
  ]);
  expect(planSchema.parse(JSON.parse(JSON.stringify(slow)))).toEqual(slow);
  const small = { ...second, facts: { ...second.facts!, width: 32 } };
  const refused = plan(ten, { then }, '24', {
    shots: [{ root: 'other', source: small, declaration: declare(small, { rate: rate(25) }) }],
  });
  expect(refused.problems.map(({ code }) => code)).toEqual(['shots-differ', 'shots-differ']);
  expect(plan(ten, { then }).problems.map(({ code }) => code)).toEqual(['shot-not-found']);
});

test('stills at markers are named by them, without a counter; what collides or is empty is said first', () => {
  const markers = [
    { frame: 8, name: 'door: open?', note: '', colour: 'ochre', length: 1 },
    { frame: 3, name: 'Bell', note: 'second take', colour: 'plum', length: 4 },
  ] as const;
  const at = (template: string, more: Partial<SpecInput> = {}, some: Given['markers'] = markers) =>
    plan(ten, { frames: 'markers', names: { template }, ...more }, '24', { markers: some });
  const made = at('{marker}.{ext}');
  expect(rowsOf(made, 0, 9).map(({ from, to }) => [from, to])).toEqual([
    ['shots/f.0003.png', 'f/Bell.png'],
    ['shots/f.0008.png', 'f/door-_open.png'],
  ]);
  expect(made.problems).toEqual([]);
  expect(rowsOf(at('{stem}_{number:2}_{frame:4}.{ext}'), 1, 2)[0]!.to).toBe('f/f_02_0008.png');
  expect(at('{marker}.{ext}', { marked: { colours: ['plum'] } }).frames).toBe(1);
  expect(at('{marker}.{ext}', { marked: { text: 'TAKE' } }).frames).toBe(1);
  expect(at('{marker}.{ext}', { marked: { every: 2 } }).frames).toBe(1);
  expect(at('{note}.{ext}').problems.map(({ code }) => code)).toEqual(['marker-without-name']);
  const doubled = [markers[1], { ...markers[1], frame: 5, name: 'bell' }];
  const collides = at('{marker}.{ext}', {}, doubled);
  expect(collides.problems[0]).toMatchObject({ code: 'names-collide', subject: 'names.template' });
  expect(collides.problems[0]!.fact).toContain('3 and 5');
  expect(at('{marker}.{ext}', {}, []).problems.map(({ code }) => code)).toEqual(['no-markers']);
  expect(at('{marker}.{ext}', {}, [{ ...markers[0], frame: 99 }]).problems.map(({ code }) => code)).toContain(
    'marker-without-frame',
  );
  expect(plan(ten, { names: { template: '{marker}.{frame}.{ext}' } }).problems[0]!.code).toBe('field-unknown');
});

test('100,000 frames through 20 bent keys stay a plan of moderate size', () => {
  const long = sourceOf([[0, 99_999]]);
  const keys = Array.from({ length: 20 }, (_, at) => ({
    from: Math.round((at / 19 + 0.04 * Math.sin(at * 2)) * 95_000 + 2000),
    to: Math.round((at * 99_999) / 19),
  }))
    .sort((a, b) => a.from - b.from)
    .map(({ from }, at) => ({ from, to: Math.round((at * 99_999) / 19) }));
  const made = plan(long, { time: { how: 'curve', curve: { keys, bend: 'smooth' } } });
  expect(made.problems).toEqual([]);
  expect(made.frames).toBe(100_000);
  expect(JSON.stringify(made).length).toBeLessThan(300_000);
});
