import fc from 'fast-check';
import { areSizes, areSubFrames } from './frameNumber.ts';
import { gapsIn, tilesIn } from './gaps.ts';
import { groupNames } from './group.ts';
import { frameName, printPattern } from './pattern.ts';
import { coverageOf, printCoverage } from './ranges.ts';

const shown = (names: string[], frameNumber?: number) =>
  groupNames(names, frameNumber).sequences.map(
    ({ pattern, coverage }) => `${printPattern(pattern)} ${printCoverage(coverage)}`,
  );
const range = (first: number, last: number): number[] =>
  Array.from({ length: last - first + 1 }, (_, at) => first + at);
const pad = (frame: number, width: number): string => String(frame).padStart(width, '0');

describe('more of something else than frames', () => {
  // Twelve of each, three frames: the rule of the fewest sequences alone would turn them round.
  const three = (name: (one: number, frame: string) => string) =>
    range(1, 12).flatMap((one) => range(1, 3).map((frame) => name(one, pad(frame, 4))));
  test.each<[string, (one: number, frame: string) => string]>([
    ['cam#_####.exr', (one, frame) => `cam${one}_${frame}.exr`],
    ['cam_##.####.exr', (one, frame) => `cam_${pad(one, 2)}.${frame}.exr`],
    ['wedge##.####.exr', (one, frame) => `wedge${pad(one, 2)}.${frame}.exr`],
    ['pass_#.####.png', (one, frame) => `pass_${one}.${frame}.png`],
    ['yard_take##_####.dpx', (one, frame) => `yard_take${pad(one, 2)}_${frame}.dpx`],
    ['yard.####.tile#.exr', (one, frame) => `yard.${frame}.tile${one}.exr`],
    ['yard.####_layer##.exr', (one, frame) => `yard.${frame}_layer${pad(one, 2)}.exr`],
    ['frame####_c##.png', (one, frame) => `frame${frame}_c${pad(one, 2)}.png`],
    ['frame_####_##.png', (one, frame) => `frame_${frame}_${pad(one, 2)}.png`],
    ['sh###.####.dpx', (one, frame) => `sh${pad(one * 10, 3)}.${frame}.dpx`],
  ])('%s', (_name, name) => {
    const found = groupNames(three(name)).sequences;
    expect(found).toHaveLength(12);
    for (const { coverage, pattern } of found) {
      expect(printCoverage(coverage)).toBe('1-3');
      expect(pattern.padding).toBe(4);
    }
  });

  test('without a word, four padded digits before the ending speak for frames', () => {
    const names = range(1, 40).flatMap((one) =>
      range(1, 4).map((frame) => `depot_${pad(one, 2)}.${pad(frame, 4)}.exr`),
    );
    expect(groupNames(names).sequences).toHaveLength(40);
  });

  test('a number that runs on over shots does not make a frame of each shot', () => {
    const names = range(1, 100).map((frame) => `reel${frame <= 50 ? 1 : 2}_${pad(frame, 4)}.dpx`);
    expect(shown(names)).toEqual(['reel1_####.dpx 1-50', 'reel2_####.dpx 51-100']);
  });
});

describe('a person says which number it is', () => {
  const names = range(1, 3).flatMap((one) => range(7, 9).map((frame) => `a${one}_b${frame}_v02.png`));
  test.each([
    [1, ['a#_b7_v02.png 1-3', 'a#_b8_v02.png 1-3', 'a#_b9_v02.png 1-3']],
    [2, ['a1_b#_v02.png 7-9', 'a2_b#_v02.png 7-9', 'a3_b#_v02.png 7-9']],
    [-2, ['a1_b#_v02.png 7-9', 'a2_b#_v02.png 7-9', 'a3_b#_v02.png 7-9']],
    [0, []],
    // The version does not vary: every file would be the only one.
    [-1, []],
    // Of names with fewer numbers the rule decides.
    [7, ['a1_b#_v02.png 7-9', 'a2_b#_v02.png 7-9', 'a3_b#_v02.png 7-9']],
  ])('%d', (frameNumber, wanted) => expect(shown(names, frameNumber).sort()).toEqual(wanted));

  test('also of what is never taken for one: versions, dates, sizes, numbers far apart', () => {
    expect(shown(['pan_v01.png', 'pan_v02.png'], 1)).toEqual(['pan_v##.png 1-2']);
    expect(shown(['yard_20261121.png', 'yard_20261122.png'], -1)).toEqual(['yard_########.png 20261121-20261122']);
    expect(shown(['icon_16.png', 'icon_32.png'], 1)).toEqual(['icon_##.png 16,32']);
    expect(shown(['IMG_4021.jpg', 'IMG_9001.jpg'], 1)).toEqual(['IMG_####.jpg 4021,9001']);
    expect(shown(['only_1.png'], 1)).toEqual([]);
  });

  test('every picture is in one place, whichever number is meant', () => {
    const name = fc.stringMatching(/^[ab]\d{0,3}[_.]\d{1,4}[_.]?\d{0,2}\.(png|exr)$/);
    fc.assert(
      fc.property(fc.uniqueArray(name, { maxLength: 30 }), fc.integer({ min: -4, max: 4 }), (names, frameNumber) => {
        const { sequences, stills } = groupNames(names, frameNumber);
        const found = sequences.flatMap(({ files, doubled }) => [
          ...Array.from(files, (index) => names[index]!),
          ...doubled.map((one) => one.name),
        ]);
        expect([...found, ...stills.map((index) => names[index]!)].sort()).toEqual([...names].sort());
        if (frameNumber === 0) expect(sequences).toEqual([]);
      }),
    );
  });
});

describe('hexadecimal numbers', () => {
  const hex = (from: number, to: number, upper = false) =>
    range(from, to).map((frame) => {
      const digits = frame.toString(16).padStart(4, '0');
      return `tram_${upper ? digits.toUpperCase() : digits}.png`;
    });

  test('count on through their letters, as one sequence, each file under its own number', () => {
    for (const upper of [false, true]) {
      const names = hex(0, 300, upper).reverse();
      const { sequences, stills } = groupNames(names);
      expect(stills).toEqual([]);
      expect(sequences).toHaveLength(1);
      const [one] = sequences;
      expect(one!.hexadecimal).toBe(true);
      expect(printCoverage(one!.coverage)).toBe('0-300');
      const odd = new Map(one!.irregular.map(({ frame, name }) => [frame, name]));
      for (const [at, frame] of one!.frames.entries()) {
        const name = names[one!.files[at]!]!;
        expect(parseInt(name.slice(5, 9), 16)).toBe(frame);
        expect(odd.get(frame) ?? frameName(one!.pattern, frame)).toBe(name);
      }
    }
  });

  test('words, hashes and decimal numbers are not taken for them', () => {
    expect(
      groupNames(['tram_bead.png', 'tram_face.png', 'tram_cafe.png', 'tram_0001.png', 'tram_0002.png']).sequences,
    ).toHaveLength(1);
    expect(shown(range(0, 40).map((frame) => `tram_${pad(frame, 4)}.png`))).toEqual(['tram_####.png 0-40']);
    const hashes = range(1, 40).map((one) => `tram_${((one * 2_654_435_761) >>> 0).toString(16).padStart(8, '0')}.png`);
    expect(groupNames(hashes).sequences.some(({ hexadecimal }) => hexadecimal)).toBe(false);
    // Camera a to f of single frames.
    expect(groupNames([...'abcdef'].map((letter) => `yard_${letter}${letter}.png`)).sequences).toEqual([]);
  });
});

describe('parts of a frame', () => {
  test.each([
    [['00', '25', '50', '75'], 4],
    [['0', '5'], 2],
    [['000', '333', '667'], 3],
    [['00', '33', '66'], 3],
  ])('%j are sequences of their own', (parts, count) => {
    const names = range(1, 3).flatMap((frame) => parts.map((part) => `smoke.${pad(frame, 4)}.${part}.exr`));
    const found = shown(names);
    expect(found).toHaveLength(count);
    expect(found[0]).toBe(`smoke.####.${parts[0]}.exr 1-3`);
  });

  test('they part the frame evenly, from its beginning', () => {
    expect(areSubFrames(new Set([0, 25, 50, 75]), 2)).toBe(true);
    expect(areSubFrames(new Set([25, 50, 75]), 2)).toBe(false);
    expect(areSubFrames(new Set([1, 2, 3]), 1)).toBe(false);
    expect(areSubFrames(new Set([0]), 1)).toBe(false);
  });
});

describe('sizes', () => {
  test('of one picture are no sequence', () => {
    const icons = ['icon_16.png', 'icon_32.png', 'icon_48.png'];
    const grouped = groupNames(icons);
    expect(grouped.sequences).toEqual([]);
    expect(grouped.stills).toHaveLength(3);
    expect(shown(['logo16x16.png', 'logo32x32.png', 'logo512x512.png'])).toEqual([]);
    expect(shown(['map-256.webp', 'map-512.webp', 'map-1024.webp', 'map-2048.webp'])).toEqual([]);
  });

  test.each([
    [[16, 17, 18], false],
    [[10, 20, 30], false],
    [[9, 18, 27], false],
    [[16, 32, 64], true],
    [[16, 36], false],
    [[16, 32], true],
  ])('%j: %s', (numbers, are) => expect(areSizes(numbers, false)).toBe(are));

  test('padded numbers are frames, whatever they are', () => {
    expect(areSizes([16, 32, 64], true)).toBe(false);
    expect(shown(['pan.0016.png', 'pan.0032.png', 'pan.0048.png'])).toEqual(['pan.####.png 16-48x16']);
  });
});

describe('texture tiles numbered by their place', () => {
  const tiles = (rows: number, columns: number) =>
    range(0, rows - 1).flatMap((row) => range(0, columns - 1).map((column) => 1001 + row * 10 + column));

  test('nothing is missing between their rows', () => {
    for (let rows = 2; rows <= 12; rows += 1) {
      for (let columns = 1; columns <= 9; columns += 1) {
        const coverage = coverageOf(tiles(rows, columns));
        expect(tilesIn(coverage)).toEqual({ rows, columns });
        expect(gapsIn(coverage)).toEqual([]);
      }
    }
    expect(tilesIn(coverageOf([1001, 1002, 1003, 1011]))).toEqual({ rows: 2, columns: 3 });
  });

  test('frames are not taken for them', () => {
    expect(tilesIn(coverageOf(range(1001, 1040)))).toBeUndefined();
    expect(tilesIn(coverageOf([1001, 1002, 1004, 1011]))).toBeUndefined();
    // A shot that lacks the last frames of its first ten.
    expect(tilesIn(coverageOf([...range(1001, 1008), ...range(1011, 1024)]))).toBeUndefined();
    expect(tilesIn(coverageOf([1002, 1003, 1011, 1012]))).toBeUndefined();
    expect(tilesIn(coverageOf([1001, 1002, 1012]))).toBeUndefined();
    expect(tilesIn(coverageOf([1001, 1002, 1021, 1022]))).toBeUndefined();
    expect(printCoverage(gapsIn(coverageOf([1, 2, 3, 11, 12, 13])))).toBe('4-10');
    expect(tilesIn([])).toBeUndefined();
  });
});
