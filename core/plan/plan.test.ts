import fc from 'fast-check';
import { describeFolder, findingsOf } from '../numbering/describe.ts';
import { framesOf } from '../numbering/ranges.ts';
import type { Facts, Source } from '../numbering/source.ts';
import { declare, rateInName, type Word } from '../spec/declaration.ts';
import { parseSpec, startingSpec, withFormat } from '../spec/parse.ts';
import { printSentence, sentenceOf } from './sentence.ts';
import { noCounts } from '../pixels/recipe.ts';
import { rateFraction } from '../timing/rate.ts';
import { lossSentence, measuredLosses } from './losses.ts';
import { makePlan } from './make.ts';
import { planSchema } from './plan.ts';
import { resultsOf, rowCount, rowsOf } from './rows.ts';
import { noTally, summarise, tally } from './summarise.ts';
import { asKeptNow, readFileSchema, receiptSchema } from './receipt.ts';
import { kindOfSum, sumOf, sumWords } from './sum.ts';

const png16: Facts = {
  width: 4,
  height: 4,
  format: 'png',
  sample: 'u16',
  channels: ['R', 'G', 'B', 'A'],
  hasAlpha: true,
  more: [],
};

function sourceOf(
  frames: number[],
  facts: Facts | undefined = png16,
  name = (frame: number) => `bell_${frame}.png`,
): Source {
  const names = frames.map(name);
  const zeros = frames.map(() => 0);
  // The last number is the frame, also of names that might be sizes.
  const [described] = describeFolder('', { names, bytes: zeros.map(() => 10), modified: zeros }, -1).sequences;
  const { source, columns } = described!;
  return { ...source, findings: findingsOf(source, { columns, moment: { now: 1e9, quiet: 15_000 } }), facts };
}

const basic = {
  version: 1,
  write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
  names: { stem: 'bell', first: 1001 },
};
const plan = (source: Source, spec: object = basic, word: Word = {}) =>
  makePlan('museum', source, declare(source, word), parseSpec(spec));
const codes = (source: Source, spec: object, word: Word = {}) =>
  plan(source, spec, word).problems.map(({ code }) => code);

const bell = sourceOf(Array.from({ length: 60 }, (_, at) => at + 1).filter((frame) => frame !== 37));

test('a source of which only headers are read is refused before it is run', () => {
  const scan = { ...png16, channels: ['R', 'G', 'B'], hasAlpha: false, transfer: 'film-log', sample: 'u10' as const };
  const opaque = { ...basic, write: { ...basic.write, alpha: 'none' } };
  expect(codes(sourceOf([1, 2], { ...scan, format: 'cin' }), opaque)).toEqual(['format-not-read']);
  expect(codes(sourceOf([1, 2], { ...scan, format: 'dpx' }), opaque)).toEqual([]);
});

test('work on pictures that cannot be done is refused by name, before it is run', () => {
  const problems = (picture: object, more: object = {}, facts: Partial<Facts> = {}) =>
    codes(sourceOf([1, 2], { ...png16, ...facts }), { ...basic, ...more, picture });
  expect(problems({ crop: { left: 1, top: 0, width: 4, height: 2 } })).toEqual(['crop-outside']);
  expect(problems({ crop: { left: 0, top: 0, width: 2, height: 4 }, turn: 90 }, {}, { height: 2 })).toEqual([]);
  expect(problems({ resize: { to: { by: 'percent', percent: 10_000 } } }, {}, { width: 4000 })).toEqual([
    'size-too-large',
  ]);
  expect(problems({ key: { colour: [0, 1, 0] } }, {}, { channels: ['Y', 'A'] })).toEqual(['key-needs-colour']);
  expect(problems({ layer: 'depth' })).toEqual(['no-such-layer']);
  expect(problems({ layer: 'depth' }, {}, { layers: ['depth', 'normal'] })).toEqual([]);
  const matte = { write: { ...basic.write, alpha: 'matte' } };
  expect(problems({}, matte)).toEqual([]);
  expect(problems({}, matte, { hasAlpha: false, channels: ['R', 'G', 'B'] })).toEqual(['no-alpha-to-extract']);
  expect(problems({ over: { colour: [1, 1, 1] } }, matte)).toEqual(['no-alpha-to-extract']);
  const p3 = { write: { ...basic.write, primaries: 'p3' } };
  expect(problems({}, p3)).toEqual([]);
  expect(problems({}, p3, { format: 'tiff', alphaSays: 'straight', transfer: 'srgb' })).toEqual([
    'primaries-not-declared',
  ]);
});

test.each([
  [{ left: -1, top: 0, width: 4, height: 2 }, 'picture.crop.left'],
  [{ left: 0, top: 0, width: 0, height: 2 }, 'picture.crop.width'],
  [{ left: 0, top: 0, width: 100_000, height: 2 }, 'picture.crop.width'],
])('a crop of %j names its field', (crop, subject) => {
  expect(() => parseSpec({ ...basic, picture: { crop } })).toThrow(
    expect.objectContaining({ code: 'bad-spec', subject }),
  );
});

test('work that moves no pixel copies; what moves, mixes or names another layer does not', () => {
  const same = { ...basic, write: { ...basic.write, sample: 'u16' } };
  const copies = (picture: object) => plan(bell, { ...same, picture }).copies;
  expect(copies({})).toBe(true);
  for (const picture of [
    { turn: 90 },
    { flip: 'down' },
    { crop: { left: 0, top: 0, width: 4, height: 4 } },
    { resize: { to: { by: 'percent', percent: 50 } } },
    { pad: { multiple: 8 } },
    { levels: {} },
    { dither: 'ordered' },
    { layer: 'depth' },
  ])
    expect([picture, copies(picture)]).toEqual([picture, false]);
});

test('a declared first frame renumbers the results, a first number of the spec goes before it', () => {
  const source = sourceOf([1001, 1002, 1003]);
  const spec = { ...basic, names: { stem: 'bell' } };
  expect(plan(source, spec, { first: 1 }).runs).toMatchObject([{ from: 1001, to: 1, count: 3 }]);
  expect(plan(source, spec).runs).toMatchObject([{ from: 1001, to: 1001 }]);
  expect(plan(source, { ...basic, names: { stem: 'bell', first: 7 } }, { first: 1 }).runs).toMatchObject([{ to: 7 }]);
});

test('what was set aside before the run stands in the plan and in the receipt', () => {
  const finding = {
    code: 'missing-frames' as const,
    severity: 'fault' as const,
    sentence: 'Frame 2 is missing.',
    short: 'x',
  };
  const source = {
    ...sourceOf([1, 3, 4]),
    findings: [
      { ...finding, setAside: 'Cut.' },
      { ...finding, code: 'mixed-size' as const },
    ],
  };
  const made = plan(source);
  expect(made.setAside).toEqual([{ code: 'missing-frames', sentence: 'Frame 2 is missing.', reason: 'Cut.' }]);
  const times = { started: '2026-11-24T00:00:00Z', finished: '2026-11-24T00:00:01Z', workSeconds: 1 };
  expect(receiptSchema.parse(summarise(made, noTally(), [], times)).setAside).toEqual(made.setAside);
});

describe('a plan', () => {
  test('numbers results from the first and keeps the gap', () => {
    const made = plan(bell);
    expect(made.files).toBe(59);
    expect(made.runs.map(({ kind, from, to, count }) => [kind, from, to, count])).toEqual([
      ['write', 1, 1001, 36],
      ['missing', 37, 1037, 1],
      ['write', 38, 1038, 23],
    ]);
    expect(rowsOf(made, 35, 38).map(({ from, to }) => [from, to])).toEqual([
      ['bell_36.png', 'bell/bell.1036.png'],
      [undefined, 'bell/bell.1037.png'],
      ['bell_38.png', 'bell/bell.1038.png'],
    ]);
    expect(resultsOf(made, 36, 37)[0]!.to).toBe('bell/bell.1038.png');
    expect(made.losses.map(({ code }) => code)).toEqual(['missing-frames', 'depth-reduced']);
    expect(made.losses[1]!.sentence).toBe('16 bits become 8: 256 of 65,536 levels');
  });

  test('is a plain value that survives JSON, and reads as one sentence', () => {
    const made = plan(bell, basic, { rate: { num: 24, den: 1 } });
    expect(planSchema.parse(JSON.parse(JSON.stringify(made)))).toEqual(JSON.parse(JSON.stringify(made)));
    expect(printSentence(sentenceOf(made))).toBe(
      'Take bell_#.png frames 1-60 as 24 fps, straight alpha, sRGB; if a frame is missing leave it out; write PNG, 8-bit, named bell.####.png from 1001, into results/bell.',
    );
  });

  test('stays a few kilobytes for 100,000 frames, every row at hand', () => {
    const many = sourceOf(Array.from({ length: 100_000 }, (_, at) => at));
    const made = plan(many, { ...basic, names: { first: 0 } });
    expect(JSON.stringify(made).length).toBeLessThan(4000);
    expect(rowCount(made)).toBe(100_000);
    expect(rowsOf(made, 99_999, 100_000)[0]!.from).toBe('bell_99999.png');
  });

  test('rows and runs say the same for any frames, any choice and any start', () => {
    const frames = fc.uniqueArray(fc.integer({ min: 0, max: 150 }), { minLength: 2, maxLength: 80 });
    fc.assert(
      fc.property(
        frames,
        fc.option(
          fc.tuple(fc.integer({ min: 0, max: 150 }), fc.integer({ min: 0, max: 200 }), fc.integer({ min: 1, max: 4 })),
        ),
        fc.integer({ min: 0, max: 5000 }),
        (list, choice, first) => {
          const text = choice ? `${choice[0]}-${choice[0] + choice[1]}x${choice[2]}` : 'all';
          const made = plan(sourceOf(list), { ...basic, frames: text, names: { stem: 'x', first } });
          const rows = rowsOf(made, 0, rowCount(made));
          const written = rows.filter(({ kind }) => kind === 'write');
          expect(written).toHaveLength(made.files);
          expect(new Set(rows.map(({ to }) => to)).size).toBe(rows.length);
          const wanted = choice
            ? new Set(
                framesOf([
                  {
                    first: choice[0],
                    last: choice[0] + Math.floor(choice[1] / choice[2]) * choice[2],
                    step: choice[2],
                  },
                ]),
              )
            : undefined;
          const expected = [...list].sort((a, b) => a - b).filter((frame) => !wanted || wanted.has(frame));
          expect(written.map(({ sourceFrame }) => sourceFrame).sort((a, b) => a - b)).toEqual(expected);
          for (const row of written) expect(row.from).toBe(`bell_${row.sourceFrame}.png`);
          // The same distance between source and result everywhere; the first of them all has the first number.
          if (rows.length > 0) expect(new Set(rows.map(({ sourceFrame, frame }) => frame - sourceFrame)).size).toBe(1);
          if (rows.length > 0 && !choice) expect(Math.min(...rows.map(({ frame }) => frame))).toBe(first);
        },
      ),
    );
  });

  test('copies bytes where no pixel changes', () => {
    const same = { ...basic, write: { ...basic.write, sample: 'u16' } };
    expect(plan(bell, same)).toMatchObject({ copies: true, recipe: null });
    expect(plan(bell, same, { alpha: 'premultiplied' }).copies).toBe(false);
    expect(plan(bell, { ...same, write: { ...same.write, transfer: 'linear' } }).copies).toBe(false);
  });
});

describe('what forbids a run', () => {
  test.each([
    ['a range outside', { ...basic, frames: '100-200' }, ['no-frames']],
    ['a range that is none', { ...basic, frames: '9-1' }, ['bad-frame-range']],
    ['stopping at what is missing', { ...basic, missing: 'stop' }, ['missing-frames']],
    ['alpha in JPEG', { ...basic, write: { ...basic.write, format: 'jpeg' } }, ['alpha-not-held']],
    ['float in PNG', { ...basic, write: { ...basic.write, sample: 'f16' } }, ['depth-not-held']],
    ['a template without number', { ...basic, names: { template: '{stem}.{ext}' } }, ['bad-template']],
    ['an unknown field', { ...basic, names: { template: '{stam}.{frame:4}.{ext}' } }, ['bad-template']],
    ['a path in the stem', { ...basic, names: { stem: '../up' } }, ['bad-template']],
  ])('%s', (_, spec, wanted) => expect(codes(bell, spec)).toEqual(wanted));

  test('nothing is guessed: alpha of TGA, transfer of TIFF', () => {
    const tga = sourceOf([1, 2], { ...png16, format: 'tga', sample: 'u8' }, (frame) => `w-${frame}.tga`);
    expect(codes(tga, basic)).toEqual(['alpha-not-declared', 'transfer-not-declared']);
    expect(codes(tga, basic, { alpha: 'straight', transfer: 'srgb' })).toEqual([]);
    expect(codes({ ...bell, facts: undefined }, basic)).toEqual(['unreadable-source']);
  });
});

describe('a declaration', () => {
  test.each([
    ['walk_12fps/', '12'],
    ['a 23976fps', '24000/1001'],
    ['x_29.97 FPS', '30000/1001'],
    ['b/60fps/c', '60'],
  ])('reads the rate in %s', (path, fraction) => expect(rateFraction(rateInName(path)!.rate)).toBe(fraction));
  test.each(['fps', 'a24', '0fps', '24fpsx'])('reads none in %s', (path) => expect(rateInName(path)).toBeUndefined());

  test('gives grounds, and the word goes before all', () => {
    const exr: Facts = { ...png16, format: 'exr', sample: 'f16', rate: { num: 24, den: 1 } };
    const source = sourceOf([1, 2], exr, (frame) => `p.${frame}.exr`);
    expect(declare(source)).toMatchObject({
      rate: { grounds: 'file' },
      alpha: { value: 'premultiplied', grounds: 'format' },
      transfer: { value: 'linear' },
    });
    expect(declare(source, { rate: { num: 25, den: 1 } }).rate).toEqual({
      value: { num: 25, den: 1 },
      grounds: 'word',
    });
    expect(declare(bell).rate).toEqual({ value: null, grounds: 'none' });
  });
});

describe('a spec', () => {
  test.each([
    [{ version: 2 }, 'spec-too-new'],
    [{ version: 1 }, 'bad-spec'],
    [null, 'bad-spec'],
    [{ ...basic, write: { ...basic.write, depth: 8 } }, 'bad-spec'],
    [{ ...basic, names: { first: 1.5 } }, 'bad-spec'],
  ])('%j is refused as %s', (value, code) => expect(() => parseSpec(value)).toThrow(expect.objectContaining({ code })));

  test('changing the format brings along what it holds', () => {
    const spec = startingSpec(bell, declare(bell));
    expect(withFormat(spec, 'exr').write).toMatchObject({ sample: 'f16', alpha: 'premultiplied', transfer: 'linear' });
    expect(withFormat(spec, 'jpeg').write).toMatchObject({ sample: 'u8', alpha: 'none' });
    expect(withFormat(withFormat(spec, 'exr'), 'png').write).toMatchObject({
      sample: 'u8',
      alpha: 'straight',
      transfer: 'srgb',
    });
  });
});

test('a receipt adds up what was written', () => {
  const made = plan(bell);
  const sum = noTally();
  for (const [index, frame] of [1001, 1002, 1004].entries()) {
    tally(sum, {
      index,
      frame,
      sourceFrame: frame - 1000,
      name: `bell.${frame}.png`,
      bytes: 5,
      sha256: '',
      sources: [{ file: `bell.${frame}.exr`, bytes: 9, sum: 'xxh128:aa', ...(index === 1 ? { changed: true } : {}) }],
      check: index === 2 ? 'differs' : 'identical',
      most: index === 2 ? 3 : 0,
      counts: { ...noCounts(), high: [1, 0, 0] },
    });
  }
  const receipt = summarise(made, sum, [], {
    started: '2026-01-01T00:00:00.000Z',
    finished: '2026-01-01T00:00:01.000Z',
    workSeconds: 1,
  });
  expect(receiptSchema.parse(receipt)).toMatchObject({
    written: 3,
    bytes: 15,
    check: { readBack: 3, identical: 2, most: 3 },
    leftOut: [{ first: 37, last: 37, step: 1 }],
  });
  expect(receipt.coverage).toEqual([
    { first: 1001, last: 1002, step: 1 },
    { first: 1004, last: 1004, step: 1 },
  ]);
  expect(measuredLosses(noCounts(), png16, made.recipe).every(({ severity }) => severity === 'note')).toBe(true);
});

describe("losses by the plan's own terms", () => {
  const opaque: Facts = { ...png16, channels: ['R', 'G', 'B'], hasAlpha: false };
  const lossCodes = (write: object, facts: Partial<Facts> = {}, picture: object = {}) => {
    const source = sourceOf([1, 2], { ...opaque, ...facts });
    const wanted = {
      ...basic,
      write: { format: 'png', sample: 'u16', alpha: 'none', transfer: 'srgb', ...write },
      picture,
    };
    return plan(source, wanted, { transfer: 'srgb' }).losses.map(({ code }) => code);
  };

  test('none where every sample, and all that is said, stays', () => {
    expect(lossCodes({ format: 'tiff' })).toEqual([]);
    expect(lossCodes({ format: 'jxl' })).toEqual([]);
    expect(lossCodes({}, { sample: 'u8' }, { turn: 90, flip: 'across' })).toEqual([]);
    expect(lossCodes({ format: 'webp', sample: 'u8' }, { sample: 'u8' })).toEqual([]);
  });

  test('a change of curve in integers says how many levels stay apart', () => {
    expect(lossCodes({ transfer: 'linear' }, { sample: 'u8' })).toEqual([]);
    const source = sourceOf([1, 2], { ...opaque, sample: 'u8' });
    const to8 = { ...basic, write: { format: 'png', sample: 'u8', alpha: 'none', transfer: 'linear' } };
    const [loss] = plan(source, to8).losses;
    // Counted by the formula of IEC 61966-2-1 alone.
    const linear = (value: number) => (value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4);
    const kept = new Set(Array.from({ length: 256 }, (_, code) => Math.round(linear(code / 255) * 255))).size;
    expect(loss).toMatchObject({ code: 'levels-merged', amount: String(256 - kept) });
  });

  test('what a file cannot say, or does not keep, is named', () => {
    expect(lossCodes({ format: 'tga', sample: 'u8', transfer: 'linear' }, { sample: 'u8' })).toContain('untagged');
    expect(lossCodes({ format: 'png', transfer: 'film-log' })).toContain('untagged');
    expect(lossCodes({ format: 'webp', sample: 'u8', lossless: false }, { sample: 'u8' })).toEqual(['lossy-format']);
    const scan = { rate: { num: 24, den: 1 }, timecode: '01:00:00:00', pixelAspect: { num: 2, den: 1 } };
    const source = sourceOf([1, 2], { ...opaque, ...scan });
    const wanted = { ...basic, write: { format: 'png', sample: 'u16', alpha: 'none', transfer: 'bt709' } };
    expect(plan(source, wanted).losses).toContainEqual({
      code: 'metadata-dropped',
      severity: 'doubt',
      sentence: 'PNG does not keep: frame rate, timecode',
      amount: '2',
    });
    expect(lossCodes({ format: 'dpx', sample: 'u16' }, scan)).not.toContain('metadata-dropped');
  });

  test('a picture that lies on a colour is not converted before the colour is declared', () => {
    const word = (matte: object) => codes(bell, basic, { alpha: 'on-colour', ...matte });
    expect(word({})).toEqual(['matte-not-declared']);
    expect(word({ matte: [1, 1, 1] })).toEqual([]);
  });

  test('all of it is said in one sentence', () => {
    const source = sourceOf([1, 2], { ...opaque, rate: { num: 24, den: 1 } });
    const said = (write: object) =>
      lossSentence(plan(source, { ...basic, write: { ...basic.write, alpha: 'none', ...write } }).losses);
    expect(said({})).toBe('Loses depth and metadata.');
    expect(said({ sample: 'u16', format: 'dpx', transfer: 'bt709' })).toBe('Loses levels.');
    expect(lossSentence([])).toBe('Lossless.');
    expect(lossCodes({ alpha: 'straight' }, { sample: 'u8' })).toEqual(['no-alpha']);
  });

  test('geometry says what it cuts', () => {
    expect(lossCodes({}, {}, { crop: { left: 0, top: 0, width: 2, height: 4 } })).toEqual(['cropped']);
    expect(lossCodes({}, {}, { resize: { to: { by: 'percent', percent: 50 } } })).toEqual(['resized']);
    expect(lossCodes({}, {}, { levels: { exposure: 1 } })).toEqual(['levels']);
  });
});

test('plans that an earlier version kept are read: a sequence, a video, stills with a name each', () => {
  const place = { root: 'out', folder: 'shots', pattern: { prefix: 'pan.', padding: 4, suffix: '.png' } };
  const kept = (into: object) => planSchema.parse({ ...plan(bell), into }).into;
  const common = { root: 'out', folder: 'shots', stem: 'pan' };
  expect(kept(place)).toEqual({ ...common, kind: 'sequence', pattern: place.pattern });
  expect(kept({ ...place, file: 'pan.mp4' })).toEqual({ ...common, kind: 'video', file: 'pan.mp4' });
  expect(kept({ ...place, names: { 1: 'door.png' } })).toEqual({ ...common, kind: 'stills', names: { 1: 'door.png' } });
  const now = { ...common, kind: 'video', file: 'pan.webm' } as const;
  expect(kept(now)).toEqual(now);
});

test('receipts that an earlier version kept have their video under its name now', () => {
  const video = {
    frames: 8,
    width: 4,
    height: 2,
    rate: { num: 24, den: 1 },
    format: 'H.264',
    sound: false,
    psnr: null,
  };
  expect(asKeptNow({ written: 1, film: video })).toEqual({ written: 1, video });
  expect(asKeptNow({ written: 1 })).toEqual({ written: 1 });
  expect([asKeptNow(null), asKeptNow('film')]).toEqual([null, 'film']);
  const read = readFileSchema.parse({ file: 'a.png', bytes: 2, sha256: 'ab' });
  expect(read).toEqual({ file: 'a.png', bytes: 2, sum: 'sha256:ab' });
  expect([kindOfSum(read.sum), sumWords(read.sum), sumWords(sumOf('xxh128', '0f'))]).toEqual([
    'sha256',
    'SHA-256 ab',
    'XXH128 0f',
  ]);
});
