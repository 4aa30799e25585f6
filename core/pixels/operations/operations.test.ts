import { pictureRows, pictureSaid } from '../../spec/pictureWords.ts';
import {
  aspectAfter,
  doesAny,
  isUntouched,
  operationKeys,
  operations,
  operationsOf,
  pictureSchema,
  sizeAfter,
  untouched,
  type OperationKey,
  type Picture,
} from '../picture.ts';

/** Each operation set to something. */
const set: { [K in OperationKey]: Picture[K] } = pictureSchema.parse({
  layer: 'matte',
  window: 'data',
  alphaFrom: { source: { root: 'r', folder: 'f', name: 'a.#.png' } },
  turn: 90,
  flip: 'across',
  crop: { left: 1, top: 2, width: 30, height: 20 },
  key: { colour: [0, 1, 0] },
  resize: { to: { by: 'percent', percent: 50 } },
  pad: { multiple: 16 },
  over: { colour: [0, 0, 0] },
  levels: { exposure: 1 },
  highlights: 'roll-off',
  dither: 'ordered',
});
const only = <K extends OperationKey>(key: K): Picture => ({ ...untouched, [key]: set[key] });

test('the fields of a picture are the operations, in their order, and each begins at rest', () => {
  expect(Object.keys(pictureSchema.shape)).toEqual(operationKeys);
  expect(isUntouched(untouched)).toBe(true);
  expect(operationsOf(untouched)).toEqual([]);
  expect(pictureSaid(untouched)).toEqual([]);
});

test.each(operationKeys)('%s: once set it is told, does something, and the file is not copied', (key) => {
  const picture = only(key);
  expect(isUntouched(picture)).toBe(false);
  expect(operationsOf(picture).map((one) => one.key)).toEqual([key]);
  expect(pictureSaid(picture)).toHaveLength(1);
  const told = pictureRows(picture).filter(({ isAtRest }) => !isAtRest);
  expect(told.map(({ label }) => label)).toEqual([operations[key].label]);
  expect(told[0]!.words).toMatch(/\S/);
  expect((['moves', 'mixes', 'chooses'] as const).some((doing) => doesAny(picture, doing))).toBe(true);
});

test('what an operation does to samples', () => {
  const doing = (kind: 'moves' | 'mixes' | 'chooses') => operationKeys.filter((key) => doesAny(only(key), kind));
  expect(doing('chooses')).toEqual(['layer', 'window', 'alphaFrom']);
  expect(doing('moves')).toEqual(['turn', 'flip', 'crop', 'resize', 'pad']);
  expect(doing('mixes')).toEqual(['key', 'resize', 'over', 'levels', 'highlights', 'dither']);
  const nearest: Picture = { ...untouched, resize: { ...set.resize!, filter: 'nearest' } };
  expect(doesAny(nearest, 'mixes')).toBe(false);
});

test('rows that share a label are one: turned and flipped', () => {
  const row = pictureRows({ ...untouched, turn: 180, flip: 'down' }).find(({ label }) => label === 'Orientation')!;
  expect(row).toEqual({
    keys: ['turn', 'flip'],
    label: 'Orientation',
    words: 'turned 180°, flipped top to bottom',
    isAtRest: false,
  });
});

test('sizes and aspects go through all operations in their order', () => {
  // 100 x 60 turned is 60 x 100; cropped to 30 x 20; halved 15 x 10; up to multiples of 16.
  expect(sizeAfter({ width: 100, height: 60 }, set)).toEqual({ width: 16, height: 16 });
  expect(aspectAfter({ num: 2, den: 1 }, only('turn'))).toEqual({ num: 1, den: 2 });
  const squared: Picture = { ...only('turn'), resize: { ...set.resize!, to: { by: 'square' } } };
  // A pixel twice as wide, turned, is half as wide: 60 x 100 becomes 30 x 100.
  expect(sizeAfter({ width: 100, height: 60 }, squared, { num: 2, den: 1 })).toEqual({ width: 30, height: 100 });
  expect(aspectAfter({ num: 2, den: 1 }, squared)).toEqual({ num: 1, den: 1 });
});
