import fc from 'fast-check';
import type { ClipFacts } from '../numbering/clipFacts.ts';
import { clipFindings } from '../numbering/findings/clips.ts';
import { framesOf } from '../numbering/ranges.ts';
import type { Facts, Source } from '../numbering/source.ts';
import { declare, type Word } from '../spec/declaration.ts';
import { lightSpec, parseSpec, startingSpec, withFormat } from '../spec/parse.ts';
import { specRows } from '../spec/rows.ts';
import type { SpecInput } from '../spec/schema.ts';
import { printSentence, sentenceOf } from './sentence.ts';
import { chromaOf, containerOf, keyDistanceOf, needsEven, videoWords } from '../spec/video.ts';
import { standardRates } from '../timing/rate.ts';
import { mayDropFrames, nominalRate, parseTimecode, printTimecode } from '../timing/timecode.ts';
import { makePlan } from './make.ts';
import { planSchema, type Plan } from './plan.ts';
import { roomWanted } from './room.ts';
import { asStills, resultsOf, rowCount, rowsOf } from './rows.ts';
import { runsOfList } from './runs.ts';

const facts: Facts = {
  width: 64,
  height: 48,
  format: 'png',
  sample: 'u8',
  channels: ['R', 'G', 'B'],
  hasAlpha: false,
  transfer: 'srgb',
  primaries: 'bt709',
  more: [],
};
const sequence: Source = {
  kind: 'sequence',
  folder: 'shots',
  name: 'f.####.png',
  pattern: { prefix: 'f.', padding: 4, suffix: '.png' },
  coverage: [
    { first: 1, last: 5, step: 1 },
    { first: 8, last: 10, step: 1 },
  ],
  irregular: [],
  doubled: [],
  files: 8,
  bytes: 0,
  modified: 0,
  weights: [1],
  findings: [],
  facts,
};
const clipFacts: ClipFacts = {
  codec: 'h264',
  container: 'mov',
  pixels: 'yuv420p',
  matrix: { value: 'bt709', said: true },
  range: { value: 'limited', said: true },
  turn: 0,
  fields: 'progressive',
  base: { num: 1, den: 1000 },
  start: 0,
  variable: false,
  counted: 'packets',
  leftOut: 0,
  keys: 4,
  longestGroup: 25,
  most: 10,
  bytes: 1000,
  cut: 0,
  torn: [],
  sound: { codec: 'aac', rate: 48_000, channels: 2 },
};
const clipOf = (more: Partial<ClipFacts> = {}, frames = 100): Source => ({
  ...sequence,
  kind: 'clip',
  name: 'c.mp4',
  pattern: undefined,
  coverage: [{ first: 0, last: frames - 1, step: 1 }],
  files: 1,
  facts: {
    ...facts,
    format: 'h264',
    transfer: undefined,
    primaries: undefined,
    rate: { num: 25, den: 1 },
    seconds: { num: frames, den: 25 },
    frames,
    clip: { ...clipFacts, ...more },
  },
});
const h264 = { format: 'h264', sample: 'u8', alpha: 'none', transfer: 'srgb' } as const;
const png = { format: 'png', sample: 'u8', alpha: 'none', transfer: 'bt709' } as const;

function planOf(source: Source, spec: Omit<SpecInput, 'version'>, word: Word = { rate: { num: 24, den: 1 } }): Plan {
  return makePlan('in', source, declare(source, word), parseSpec({ version: 1, ...spec }));
}
const said = (plan: Plan) => printSentence(sentenceOf(plan));

describe('a video of a sequence', () => {
  test('is one file, its frames counted from 0, read aloud with rate, codec and sound', () => {
    const plan = planOf(sequence, { write: h264 });
    expect(plan.problems).toEqual([]);
    expect([plan.files, plan.frames, plan.rate, plan.into]).toMatchObject([
      1,
      8,
      { num: 24, den: 1 },
      { folder: '', file: 'f.mp4' },
    ]);
    expect(resultsOf(plan, 0, 8).map(({ sourceFrame, frame, to }) => [sourceFrame, frame, to])).toEqual(
      [1, 2, 3, 4, 5, 8, 9, 10].map((frame, at) => [frame, at, 'f.mp4']),
    );
    expect(said(plan)).toBe(
      'Take f.####.png frames 1-10 as 24 fps, no alpha, sRGB; if a frame is missing close up; write H.264, 8-bit at 24 fps, quality 18, 4:2:0, named f.mp4, into results.',
    );
    expect(printSentence(sentenceOf(plan, undefined, true))).toBe(
      'Take f.####.png frames 1-10 as 24 fps, no alpha, sRGB, the picture as it is, at its own speed; if a frame is missing close up; write H.264, 8-bit at 24 fps, quality 18, 4:2:0 with no alpha, sRGB, named f.mp4, heard nothing, with nothing written in, into results.',
    );
    expect(plan.losses.map(({ code }) => code)).toEqual(
      expect.arrayContaining(['closed-up', 'lossy-format', 'colour-thinned']),
    );
    expect(planSchema.parse(JSON.parse(JSON.stringify(plan)))).toEqual(JSON.parse(JSON.stringify(plan)));
  });

  test.each([
    ['hold', [1, 2, 3, 4, 5, 5, 5, 8, 9, 10], 'frames-held'],
    ['slate', [1, 2, 3, 4, 5, 6, 7, 8, 9, 10], 'frames-slated'],
  ] as const)('missing frames: %s', (missing, frames, loss) => {
    const plan = planOf(sequence, { write: h264, missing });
    expect(resultsOf(plan, 0, plan.frames).map(({ sourceFrame }) => sourceFrame)).toEqual(frames);
    expect(resultsOf(plan, 5, 7).map(({ kind, from }) => [kind, from !== undefined])).toEqual(
      missing === 'hold'
        ? [
            ['write', true],
            ['write', true],
          ]
        : [
            ['slate', false],
            ['slate', false],
          ],
    );
    expect(plan.losses.map(({ code }) => code)).toContain(loss);
    // The same for stills, under the numbers that are missing.
    const stills = planOf(sequence, { write: png, missing });
    expect(resultsOf(stills, 5, 7).map(({ to }) => to)).toEqual(['f/f.0006.png', 'f/f.0007.png']);
  });

  test('a frame that is missing before all others is held from the first that is there', () => {
    const plan = planOf(sequence, { write: h264, missing: 'hold', frames: '-1-2' });
    expect(resultsOf(plan, 0, plan.frames).map(({ sourceFrame }) => sourceFrame)).toEqual([1, 1, 1, 2]);
  });

  test.each([
    [{ write: h264 }, {}, 'rate-not-declared'],
    [{ write: h264, video: { crf: 60 } }, undefined, 'quality-outside'],
    [{ write: h264, video: { control: 'bitrate', bitrate: 5000, maxBitrate: 4000 } }, undefined, 'bitrate-below'],
    [{ write: h264, video: { timecode: '01:00:00:24' } }, undefined, 'bad-timecode'],
    [{ write: h264, picture: { crop: { left: 0, top: 0, width: 33, height: 48 } } }, undefined, 'odd-size'],
    [{ write: h264, video: { name: '{stem}.{frame:4}.mp4' } }, undefined, 'bad-template'],
    [{ write: { ...h264, alpha: 'straight' } }, undefined, 'alpha-not-held'],
    [{ write: { ...h264, sample: 'u16' } }, undefined, 'depth-not-held'],
    [
      { write: { ...h264, format: 'vp9', alpha: 'straight' }, video: { chroma: '4:4:4' } },
      undefined,
      'chroma-not-held',
    ],
    [{ write: { ...h264, format: 'vp9', sample: 'u10', alpha: 'straight' } }, undefined, 'depth-not-held'],
    [{ write: h264, sound: { from: { root: 'r', folder: '', name: 'no.wav' } } }, undefined, 'sound-not-found'],
    [{ write: h264 }, { rate: { num: 400, den: 1 } }, 'rate-outside'],
  ] as [Omit<SpecInput, 'version'>, Word | undefined, string][])('%o with %o: %s', (spec, word, code) =>
    expect(planOf(sequence, spec, word).problems.map((problem) => problem.code)).toContain(code),
  );

  test('a video of several pieces needs its room twice while they are joined', () => {
    const rooms = (spec: Omit<SpecInput, 'version'>) => roomWanted(planOf(sequence, spec), 1000);
    expect(rooms({ write: h264 })).toBe(1000);
    expect(rooms({ write: h264, frames: '1-600', missing: 'hold' })).toBe(2000);
    expect(rooms({ write: h264, frames: '1-600', missing: 'hold', video: { control: 'bitrate' } })).toBe(1000);
    expect(rooms({ write: png, frames: '1-600', missing: 'hold' })).toBe(1000);
  });

  test('looked at as stills, each picture has a name of its own', () => {
    const stills = asStills(planOf(sequence, { write: h264 }));
    expect(resultsOf(stills, 3, 4)[0]!.to).toBe('f.0003.png');
  });

  test('a plan of an earlier version made a file of every picture', () => {
    const { frames: _, ...old } = JSON.parse(JSON.stringify(planOf(sequence, { write: png }))) as Record<
      string,
      unknown
    >;
    expect(planSchema.parse(old).frames).toBe(8);
  });
});

describe('frames of a clip', () => {
  test('begin with every picture once, in the clip’s own curve, its sound left out or taken along', () => {
    const clip = clipOf();
    const declaration = declare(clip);
    const spec = startingSpec(clip, declaration);
    expect(spec.write).toMatchObject({ format: 'png', transfer: 'bt709', alpha: 'none' });
    const plan = makePlan('in', clip, declaration, { ...spec, into: { root: 'results', folder: '{stem}_{rate}fps' } });
    expect(plan.problems).toEqual([]);
    expect([plan.frames, plan.into.folder, plan.sound]).toEqual([100, 'c_25fps', null]);
    expect(said(plan)).toContain('frames 0-99 as 25 fps, no alpha, BT.709; write PNG');
    expect(said(plan)).toContain('its sound left out');
    const titled = { ...spec, write: h264, burn: { ...spec.burn, slate: 24 } };
    expect(said(planOf(clip, titled))).toContain('with a title of 24 frames written in');
    const whole = printSentence(sentenceOf(plan, undefined, true));
    expect(whole).toContain('frames 0-99 as 25 fps, every picture once, no alpha, BT.709');
    const beside = makePlan('in', clip, declaration, { ...spec, sound: { ...spec.sound, beside: true } });
    expect(beside.sound).toEqual({
      root: '',
      file: 'shots/c.mp4',
      seconds: { num: 100, den: 25 },
      own: true,
      as: 'c.wav',
    });
  });

  test('its own sound goes with pictures in one piece at their own pace, and with no others', () => {
    const write = { write: h264 };
    const soundOf = (spec: object, word: Word = {}, more: Partial<ClipFacts> = {}) => {
      const { sound, losses } = planOf(clipOf(more), { ...write, ...spec }, word);
      return [sound !== null, losses.some(({ code }) => code === 'sound-left-out')];
    };
    expect(soundOf({})).toEqual([true, false]);
    expect(soundOf({ frames: '20-60' })).toEqual([true, false]);
    expect(soundOf({ frames: '20-60,80-90' })).toEqual([false, true]);
    expect(soundOf({ frames: '0-90x2' })).toEqual([false, true]);
    expect(soundOf({}, { rate: { num: 24, den: 1 } })).toEqual([false, true]);
    expect(soundOf({ sound: { from: 'none' } })).toEqual([false, false]);
    const runs: [number, number][] = [
      [50, 40],
      [50, 30],
    ];
    expect(soundOf({}, {}, { variable: true, runs })).toEqual([false, true]);
    expect(soundOf({ clip: { timing: 'constant-rate' } }, {}, { variable: true, runs })).toEqual([true, false]);
  });

  test('every fifth, numbered one after another', () => {
    const plan = planOf(clipOf(), { write: png, frames: '0-99x5', names: { closeUp: true, first: 1 } });
    expect(resultsOf(plan, 0, 3).map(({ sourceFrame, frame }) => [sourceFrame, frame])).toEqual([
      [0, 1],
      [5, 2],
      [10, 3],
    ]);
    expect([plan.runs.length, plan.frames]).toEqual([1, 20]);
  });

  test.each([
    ['keep', 100, { num: 25, den: 1 }],
    ['deinterlace', 100, { num: 25, den: 1 }],
    ['each-field', 200, { num: 50, den: 1 }],
    ['remove-pulldown', 80, { num: 20, den: 1 }],
  ] as const)('fields %s: so many pictures at such a rate', (fields, frames, rate) => {
    const plan = planOf(clipOf(), { write: png, clip: { fields } }, {});
    expect([plan.frames, plan.rate]).toEqual([frames, rate]);
  });

  test('at a constant rate by times: doubled and dropped as counted, whatever the range', () => {
    const clip = clipOf({
      variable: true,
      runs: [
        [50, 40],
        [1, 200],
        [49, 20],
      ],
    });
    const constant = { timing: 'constant-rate', rate: { num: 25, den: 1 } } as const;
    const plan = planOf(clip, { write: png, clip: constant }, {});
    const from = resultsOf(plan, 0, plan.frames).map(({ sourceFrame }) => sourceFrame);
    expect(from.slice(48, 58)).toEqual([48, 49, 50, 50, 50, 50, 50, 52, 54, 56]);
    expect(from).toEqual([...from].sort((a, b) => a - b));
    const some = planOf(clip, { write: png, clip: constant, frames: '50-53' }, {});
    expect(resultsOf(some, 0, some.frames).map(({ sourceFrame }) => sourceFrame)).toEqual([50, 50, 50, 50, 50, 52]);
    expect(planOf(clip, { write: png }, {}).losses.map(({ code }) => code)).toContain('times-lost');
  });

  test('bytes of a clip are never copied for frames', () =>
    expect(planOf(clipOf(), { write: h264 }, {}).copies).toBe(false));
});

test('runs of any list give it back, line by line', () => {
  const numbers = fc.array(fc.tuple(fc.integer({ min: 0, max: 300 }), fc.integer({ min: 1, max: 4 })), {
    maxLength: 80,
  });
  fc.assert(
    fc.property(numbers, (steps) => {
      let to = 0;
      const list = steps.map(([from, step]) => ({ from, to: (to += step) }));
      const plan = { ...planOf(sequence, { write: png }), runs: runsOfList(list) };
      const rows = rowsOf(plan, 0, rowCount(plan)).map(({ sourceFrame, frame }) => ({ from: sourceFrame, to: frame }));
      expect(rows).toEqual(list);
    }),
  );
});

describe('what a clip brings to light', () => {
  const codes = (more: Partial<ClipFacts>, frames?: number) =>
    clipFindings(clipOf(more, frames).facts!).map(({ code }) => code);

  test.each([
    [{}, []],
    [{ said: 120 }, ['cut-short']],
    [{ said: 120, leftOut: 20 }, []],
    [{ said: 90 }, ['count-mismatch']],
    [{ cut: 1 }, ['cut-short']],
    [{ variable: true }, ['variable-rate']],
    [{ variable: true, holes: [{ after: 4, lost: 2 }] }, ['missing-pictures']],
    [{ seen: 'pulldown', fields: 'top-first' }, ['pulldown']],
    [{ seen: 'interlaced' }, ['interlaced']],
    [{ fields: 'bottom-first' }, ['interlaced']],
    [{ fields: 'top-first', seen: 'progressive' }, []],
    [{ changesAt: 12 }, ['size-changes']],
    [{ turn: 90 }, ['turned']],
  ] as [Partial<ClipFacts>, string[]][])('%o: %o', (more, found) => expect(codes(more)).toEqual(found));
});

describe('how a video is written', () => {
  test('containers, density of colour and even sides are those that the codec has', () => {
    const video = parseSpec({ version: 1, write: h264 }).video;
    expect(
      ['h264', 'prores422', 'vp9', 'ffv1'].map((one) => containerOf(one as 'h264', { ...video, container: 'mov' })),
    ).toEqual(['mov', 'mov', 'webm', 'mkv']);
    expect([
      chromaOf('av1', { chroma: '4:4:4' }),
      chromaOf('h265', { chroma: '4:4:4' }),
      chromaOf('ffv1', video),
    ]).toEqual(['4:2:0', '4:4:4', undefined]);
    expect([
      needsEven('h264', { chroma: '4:2:2' }),
      needsEven('prores422', video),
      needsEven('prores4444', video),
    ]).toEqual([
      { width: true, height: false },
      { width: true, height: false },
      { width: false, height: false },
    ]);
    expect([
      keyDistanceOf(video, { num: 24_000, den: 1001 }),
      keyDistanceOf({ keyDistance: 7 }, { num: 24, den: 1 }),
    ]).toEqual([48, 7]);
    expect(videoWords('h264', { ...video, control: 'bitrate', maxBitrate: 30_000, passes: 2 })).toBe(
      '20000 kb/s, at most 30000 in two passes, 4:2:0',
    );
  });

  test('a change of format brings depth and alpha to what it holds; a light one is H.264, or VP9 with alpha', () => {
    const spec = parseSpec({
      version: 1,
      write: { format: 'exr', sample: 'f16', alpha: 'premultiplied', transfer: 'linear' },
    });
    expect(withFormat(spec, 'vp9').write).toMatchObject({ sample: 'u8', alpha: 'straight', transfer: 'bt709' });
    // Players take a video for BT.709; what keeps every sample stays as it is.
    expect(withFormat(spec, 'ffv1').write.transfer).toBe('srgb');
    expect(withFormat(withFormat(spec, 'h264'), 'png', spec.write).write.transfer).toBe('srgb');
    expect(withFormat(spec, 'prores4444').write).toMatchObject({ sample: 'u10', alpha: 'premultiplied' });
    expect(lightSpec(spec, 0.5)).toMatchObject({
      write: { format: 'vp9' },
      picture: { resize: { to: { by: 'percent', percent: 50 } } },
    });
    expect(lightSpec(parseSpec({ version: 1, write: png }), 1)).toMatchObject({
      write: { format: 'h264' },
      picture: { resize: null },
    });
  });

  test('every field of a video stands in the rows of its spec', () => {
    const rows = Object.fromEntries(
      specRows(parseSpec({ version: 1, write: h264, missing: 'slate', clip: { fields: 'deinterlace' } })),
    );
    expect(rows).toMatchObject({
      Compression: 'quality 18, 4:2:0, in MP4',
      'If a frame is missing': 'insert a slate',
      'Of clips': 'de-interlaced, one picture a frame',
      Names: '{stem}.{ext}',
    });
  });
});

describe('timecode', () => {
  test('is read as it is written, at every rate and in drop-frame, over a day', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...standardRates),
        fc.integer({ min: 0, max: 5_000_000 }),
        fc.boolean(),
        (rate, frame, wantsDrop) => {
          const drop = wantsDrop && mayDropFrames(rate);
          const day = 24 * 3600 * nominalRate(rate) - (drop ? 24 * 54 * 2 * (nominalRate(rate) / 30) : 0);
          const within = frame % day;
          expect(parseTimecode(printTimecode(within, rate, drop), rate)).toBe(within);
        },
      ),
    );
  });

  test.each([
    ['01:00:00', 24],
    ['24:00:00:00', 24],
    ['01:60:00:00', 24],
    ['01:00:00:24', 24],
    ['01:00:00;00', 25],
    ['one', 24],
    ['', 24],
  ])('"%s" at %d is refused', (text, num) => expect(() => parseTimecode(text, { num, den: 1 })).toThrow(/timecode/));

  test('labels that drop-frame skips are refused with the first that is there', () =>
    expect(() => parseTimecode('00:01:00;01', { num: 30_000, den: 1001 })).toThrow(/skips 00:01:00;01/));
});

test('coverage stays what it was for those who count it', () =>
  expect([...framesOf(sequence.coverage)].length).toBe(8));
