import fc from 'fast-check';
import { describeFolder } from './describe.ts';
import { groupFiles } from './group.ts';
import { frameName, parsePattern, printPattern } from './pattern.ts';
import { printCoverage } from './ranges.ts';

const listed = (names: string[], bytes = 100) => names.map((name) => ({ name, bytes, modified: 0 }));
const group = (...names: string[]) => groupFiles(listed(names));
const shown = (...names: string[]) =>
  group(...names).sequences.map(({ pattern, coverage }) => `${printPattern(pattern)} ${printCoverage(coverage)}`);

describe('grouping', () => {
  test.each([
    [['pan.0001.exr', 'pan.0002.exr', 'pan.0004.exr'], ['pan.####.exr 1-2,4']],
    [['bell_1.png', 'bell_2.png', 'bell_10.png'], ['bell_#.png 1-2,10']],
    [['00001.jpg', '00002.jpg'], ['#####.jpg 1-2']],
    [['shot_010_v02.0990.dpx', 'shot_010_v02.0991.dpx'], ['shot_010_v02.####.dpx 990-991']],
    [['frame_0001_left.png', 'frame_0002_left.png'], ['frame_####_left.png 1-2']],
    [['Render (1).png', 'Render (2).png'], ['Render (#).png 1-2']],
    [['x.998.png', 'x.999.png', 'x.1000.png'], ['x.###.png 998-1000']],
    [['p.-002.tga', 'p.-001.tga', 'p.000.tga'], ['p.###.tga -2-0']],
    [
      ['a.1.png', 'a.1.jpg', 'a.2.png', 'a.2.jpg'],
      ['a.#.png 1-2', 'a.#.jpg 1-2'],
    ],
  ])('%j', (names, wanted) => expect(shown(...names).sort()).toEqual([...wanted].sort()));

  test('takes the run that gives whole sequences', () => {
    const names = [1, 2].flatMap((take) => [1, 2, 3].map((frame) => `cam1_take${take}_00${frame}.png`));
    expect(shown(...names)).toEqual(['cam1_take1_###.png 1-3', 'cam1_take2_###.png 1-3']);
    expect(shown('pan.0001_v2.exr', 'pan.0002_v2.exr', 'pan.0003_v2.exr')).toEqual(['pan.####_v2.exr 1-3']);
  });

  test('does not force clips, sounds, single files and hidden ones into sequences', () => {
    const { sequences, stills, clips, sounds, other } = group(
      'a3f9c01b.png',
      'umbrella_12.png',
      'take_1.mov',
      'take_2.mov',
      's1.wav',
      '.pan.0001.exr',
      'notes.txt',
      'x.1.png.part',
      'Thumbs.db',
    );
    expect(sequences).toEqual([]);
    expect(stills.map(({ name }) => name)).toEqual(['a3f9c01b.png', 'umbrella_12.png']);
    expect(clips).toHaveLength(2);
    expect(sounds).toHaveLength(1);
    expect(other).toHaveLength(4);
  });

  test('the padding of most names holds; others are irregular or doubled', () => {
    const [sequence] = group('l.1.png', 'l.2.png', 'l.3.png', 'l.0002.png').sequences;
    expect(printPattern(sequence!.pattern)).toBe('l.#.png');
    expect(sequence!.doubled).toEqual([{ frame: 2, name: 'l.0002.png' }]);
    const [padded] = group('l.001.png', 'l.002.png', 'l.3.png').sequences;
    expect(padded!.irregular).toEqual([{ frame: 3, name: 'l.3.png' }]);
  });

  test('every picture ends up in one place, whatever the names', () => {
    const name = fc.stringMatching(/^[a-z_.]{0,4}\d{0,5}[a-z_. ]{0,3}\d{0,4}\.(png|exr)$/);
    fc.assert(
      fc.property(fc.uniqueArray(name, { maxLength: 40 }), (names) => {
        const { sequences, stills, other } = group(...names);
        const found = [
          ...sequences.flatMap(({ frames, doubled }) => [
            ...frames.map(({ file }) => file.name),
            ...doubled.map((one) => one.name),
          ]),
          ...stills.map((file) => file.name),
          ...other.map((file) => file.name),
        ];
        expect(found.sort()).toEqual([...names].sort());
      }),
    );
  });

  test('regular frames have the name that their pattern gives', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 0, max: 20_000 }), { minLength: 2, maxLength: 50 }),
        fc.integer({ min: 1, max: 6 }),
        (frames, padding) => {
          const [sequence] = group(
            ...frames.map((frame) => `a_${frame.toString().padStart(padding, '0')}.png`),
          ).sequences;
          for (const { frame, file } of sequence!.frames) expect(frameName(sequence!.pattern, frame)).toBe(file.name);
        },
      ),
    );
  });
});

describe('patterns', () => {
  test('are read in both forms', () => {
    expect(parsePattern('pan.####.exr')).toEqual({ prefix: 'pan.', padding: 4, suffix: '.exr' });
    expect(parsePattern('pan.%04d.exr')).toEqual(parsePattern('pan.####.exr'));
    expect(parsePattern('pan_%d.exr')).toEqual(parsePattern('pan_#.exr'));
    expect(frameName(parsePattern('p.####.exr'), -5)).toBe('p.-0005.exr');
    expect(() => parsePattern('pan.exr')).toThrow(expect.objectContaining({ code: 'bad-pattern' }));
  });
});

describe('findings of names and sizes', () => {
  const codes = (names: string[], hollow: string[] = []) =>
    describeFolder('', groupFiles([...listed(names), ...listed(hollow, 0)])).flatMap(({ findings }) =>
      findings.map(({ code }) => code),
    );
  test.each([
    [['a.1.png', 'a.2.png', 'a.4.png'], [], ['missing-frames']],
    [['a.9.png', 'a.10.png'], [], ['listing-order']],
    [['a.09.png', 'a.10.png'], [], []],
    [['a.01.png', 'a.02.png', 'a.2.png', 'a.03.png'], [], ['duplicate-number']],
    [['a.1.png', 'a.2.png'], ['a.3.png'], ['empty-file']],
    [['a.00.png', 'a.04.png', 'a.08.png'], [], []],
  ])('%j with empty %j', (names, hollow, wanted) => expect(codes(names, hollow)).toEqual(wanted));

  test('weights are the mean bytes of each part, at most 1,024 parts', () => {
    const [source] = describeFolder(
      '',
      groupFiles(
        Array.from({ length: 100_000 }, (_, at) => ({
          name: `a.${at}.png`,
          bytes: at < 50_000 ? 10 : 30,
          modified: 0,
        })),
      ),
    );
    expect(source!.weights).toHaveLength(1024);
    expect(source!.weights[0]).toBe(10);
    expect(source!.weights[1023]).toBe(30);
    expect(JSON.stringify(source).length).toBeLessThan(8000);
  });
});
