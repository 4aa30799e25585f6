import fc from 'fast-check';
import { groupNames } from './group.ts';
import { frameName, parsePattern, printPattern } from './pattern.ts';
import { printCoverage } from './ranges.ts';

const shown = (...names: string[]) =>
  groupNames(names).sequences.map(({ pattern, coverage }) => `${printPattern(pattern)} ${printCoverage(coverage)}`);
const range = (first: number, last: number, step = 1): number[] =>
  Array.from({ length: Math.floor((last - first) / step) + 1 }, (_, at) => first + at * step);
const pad = (frame: number, width: number): string => String(frame).padStart(width, '0');

describe('grouping', () => {
  test.each([
    [['pan.0001.exr', 'pan.0002.exr', 'pan.0004.exr'], ['pan.####.exr 1-2,4']],
    [['bell_1.png', 'bell_2.png', 'bell_10.png'], ['bell_#.png 1-2,10']],
    [['00001.jpg', '00002.jpg'], ['#####.jpg 1-2']],
    [['shot_010_v02.0990.dpx', 'shot_010_v02.0991.dpx'], ['shot_010_v02.####.dpx 990-991']],
    [['frame_0001_left.png', 'frame_0002_left.png'], ['frame_####_left.png 1-2']],
    [['Render (1).png', 'Render (2).png', 'Render (12).png'], ['Render (#).png 1-2,12']],
    [['x.998.png', 'x.999.png', 'x.1000.png'], ['x.###.png 998-1000']],
    [['p.-002.tga', 'p.-001.tga', 'p.000.tga'], ['p.###.tga -2-0']],
    [['tram-001.png', 'tram-002.png'], ['tram-###.png 1-2']],
    [['A.0001.EXR', 'A.0002.EXR'], ['A.####.EXR 1-2']],
    [['two words. and dots.01.tif', 'two words. and dots.02.tif'], ['two words. and dots.##.tif 1-2']],
    [
      ['a.1.png', 'a.1.jpg', 'a.2.png', 'a.2.jpg'],
      ['a.#.png 1-2', 'a.#.jpg 1-2'],
    ],
    [['every.1.png', 'every.3.png', 'every.5.png'], ['every.#.png 1-5x2']],
  ])('%j', (names, wanted) => expect(shown(...names).sort()).toEqual([...wanted].sort()));

  test('takes the run that gives whole sequences, the last on a tie', () => {
    const takes = [1, 2].flatMap((take) => [1, 2, 3].map((frame) => `cam1_take${take}_00${frame}.png`));
    expect(shown(...takes)).toEqual(['cam1_take1_###.png 1-3', 'cam1_take2_###.png 1-3']);
    const cams = [1, 2].flatMap((cam) => range(1, 4).map((frame) => `cam${cam}_take3_${pad(frame, 3)}.png`));
    expect(shown(...cams)).toEqual(['cam1_take3_###.png 1-4', 'cam2_take3_###.png 1-4']);
    expect(shown('pan.0001_v2.exr', 'pan.0002_v2.exr', 'pan.0003_v2.exr')).toEqual(['pan.####_v2.exr 1-3']);
    const eyes = range(1, 40).flatMap((frame) => [1, 2].map((eye) => `pan.${pad(frame, 4)}.eye${eye}.png`));
    expect(shown(...eyes)).toEqual(['pan.####.eye1.png 1-40', 'pan.####.eye2.png 1-40']);
    const square = [1, 2].flatMap((a) => [1, 2].map((b) => `s${a}_${b}.png`));
    expect(shown(...square)).toEqual(['s1_#.png 1-2', 's2_#.png 1-2']);
  });

  test('a missing frame does not turn cameras into frames, nor shots into every tenth', () => {
    const cams = [1, 2, 3].flatMap((cam) => [1, 2, 4, 5].map((frame) => `cam${cam}.${frame}.png`));
    expect(shown(...cams)).toEqual(['cam1.#.png 1-2,4-5', 'cam2.#.png 1-2,4-5', 'cam3.#.png 1-2,4-5']);
    const shots = range(10, 100, 10).flatMap((shot) => [1, 2].map((frame) => `sh${pad(shot, 3)}.${pad(frame, 4)}.png`));
    expect(shown(...shots)).toHaveLength(10);
    expect(shown(...shots)[0]).toBe('sh010.####.png 1-2');
    const fours = [1, 2].flatMap((cam) => range(0, 96, 4).map((frame) => `cam${cam}.${pad(frame, 4)}.png`));
    expect(shown(...fours)).toEqual(['cam1.####.png 0-96x4', 'cam2.####.png 0-96x4']);
  });

  test('versions are sequences of their own', () => {
    const names = ['v01', 'v02', 'v3'].flatMap((version) =>
      range(1, 3).map((frame) => `pan_${version}_${pad(frame, 3)}.png`),
    );
    expect(shown(...names)).toEqual(['pan_v01_###.png 1-3', 'pan_v02_###.png 1-3', 'pan_v3_###.png 1-3']);
    expect(shown('pan_v01.png', 'pan_v02.png', 'pan_v03.png')).toEqual([]);
    expect(shown('v0001.png', 'v0002.png')).toEqual(['v####.png 1-2']);
  });

  test('dates and times of day are no frames', () => {
    expect(shown('yard_20261121.png', 'yard_20261122.png', 'yard_20261123.png')).toEqual([]);
    expect(shown('yard_2026-11-21.png', 'yard_2026-11-22.png')).toEqual([]);
    expect(shown('yard_20261121_101500.png', 'yard_20261121_101501.png')).toEqual([]);
    expect(shown('yard_2026-11-21_0001.png', 'yard_2026-11-21_0002.png')).toEqual(['yard_2026-11-21_####.png 1-2']);
    // Not every number of the group is a date: frames of a long count.
    expect(shown('f.20261129.png', 'f.20261130.png', 'f.20261131.png', 'f.20261132.png')).toEqual([
      'f.########.png 20261129-20261132',
    ]);
  });

  test('scattered hexadecimal words and a few numbers far apart are no sequence', () => {
    expect(shown('a3f9c01b.png', 'a7f9c01b.png', 'a1f9c01b.png')).toEqual([]);
    expect(shown('IMG_4021.jpg', 'IMG_4977.jpg', 'IMG_9001.jpg')).toEqual([]);
    expect(shown('550e8400-e29b-41d4-a716-446655440000.png', '550e8401-e29b-41d4-a716-446655440000.png')).toEqual([]);
    expect(shown('cafe001.png', 'cafe002.png', 'cafe003.png')).toEqual(['cafe###.png 1-3']);
  });

  test('does not force clips, sounds, single files and hidden ones into sequences', () => {
    const names = [
      'a3f9c01b.png',
      'umbrella_12.png',
      'take_1.mov',
      'take_2.mov',
      's1.wav',
      '.pan.0001.exr',
      'notes.txt',
      'x.1.png.part',
      'x.2.png.crdownload',
      'Thumbs.db',
      'desktop.ini',
      '~$open.png',
    ];
    const { sequences, stills, clips, sounds, other } = groupNames(names);
    expect(sequences).toEqual([]);
    expect(stills.map((index) => names[index])).toEqual(['a3f9c01b.png', 'umbrella_12.png']);
    expect(clips).toHaveLength(2);
    expect(sounds).toHaveLength(1);
    expect(other).toHaveLength(7);
  });

  test('the padding of most names holds; others are irregular or doubled', () => {
    const [sequence] = groupNames(['l.1.png', 'l.2.png', 'l.3.png', 'l.0002.png']).sequences;
    expect(printPattern(sequence!.pattern)).toBe('l.#.png');
    expect(sequence!.doubled).toEqual([{ frame: 2, name: 'l.0002.png' }]);
    const [padded] = groupNames(['l.001.png', 'l.002.png', 'l.3.png']).sequences;
    expect(padded!.irregular).toEqual([{ frame: 3, name: 'l.3.png' }]);
  });

  test('composed and decomposed letters, and endings in either case, are one sequence; the spelling of most holds', () => {
    const composed = 'Übergabe'.normalize('NFC');
    const decomposed = 'Übergabe'.normalize('NFD');
    const [both] = groupNames([`${composed}.1.png`, `${composed}.2.png`, `${decomposed}.3.png`]).sequences;
    expect(printCoverage(both!.coverage)).toBe('1-3');
    expect(both!.pattern.prefix).toBe(`${composed}.`);
    expect(both!.irregular).toEqual([{ frame: 3, name: `${decomposed}.3.png` }]);
    const [twice] = groupNames([`${composed}.1.png`, `${decomposed}.1.png`, `${composed}.2.png`]).sequences;
    expect(twice!.doubled).toEqual([{ frame: 1, name: `${decomposed}.1.png` }]);
    const [cased] = groupNames(['a.1.PNG', 'a.2.png', 'a.3.png']).sequences;
    expect(cased!.irregular).toEqual([{ frame: 1, name: 'a.1.PNG' }]);
  });

  test('every picture ends up in one place, whatever the names', () => {
    const name = fc.stringMatching(/^[a-z_.üv-]{0,4}\d{0,5}[a-z_. ]{0,3}\d{0,4}\.(png|exr|PNG)$/);
    fc.assert(
      fc.property(fc.uniqueArray(name, { maxLength: 40 }), (names) => {
        const { sequences, stills, other } = groupNames(names);
        const found = [
          ...sequences.flatMap(({ files, doubled }) => [
            ...Array.from(files, (index) => names[index]!),
            ...doubled.map((one) => one.name),
          ]),
          ...[...stills, ...other].map((index) => names[index]!),
        ];
        expect(found.sort()).toEqual([...names].sort());
      }),
    );
  });

  test('the order of the listing changes nothing', () => {
    const name = fc.stringMatching(/^[ab]\d{1,2}_\d{1,3}\.png$/);
    const told = (names: string[]) =>
      groupNames(names)
        .sequences.map(({ pattern, coverage, doubled, irregular }) => ({
          name: printPattern(pattern),
          frames: printCoverage(coverage),
          doubled: doubled.length,
          irregular: irregular.map((one) => one.name).sort(),
        }))
        .sort((a, b) => (a.name + a.frames < b.name + b.frames ? -1 : 1));
    fc.assert(
      fc.property(fc.uniqueArray(name, { minLength: 1, maxLength: 30 }), fc.nat(), (names, seed) => {
        const turned = names.map((_, at) => names[(at * 7 + seed) % names.length]!);
        fc.pre(new Set(turned).size === names.length);
        expect(told(turned)).toEqual(told(names));
      }),
    );
  });

  test('regular frames have the name that their pattern gives', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: -100, max: 400 }), { minLength: 6, maxLength: 50 }),
        fc.integer({ min: 1, max: 6 }),
        (frames, padding) => {
          const names = frames.map((frame) => frameName({ prefix: 'a_', padding, suffix: '.png' }, frame));
          const { sequences } = groupNames(names);
          expect(sequences).toHaveLength(1);
          const [{ pattern, files, irregular, frames: held }] = sequences as [(typeof sequences)[0]];
          expect(irregular).toEqual([]);
          expect([...held]).toEqual([...frames].sort((a, b) => a - b));
          files.forEach((index, at) => expect(frameName(pattern, held[at]!)).toBe(names[index]));
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
