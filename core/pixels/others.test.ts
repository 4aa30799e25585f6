import fc from 'fast-check';
import { makeConverter } from './convert.ts';
import type { Image } from './image.ts';
import { sizeBelow } from './layOver.ts';
import { alphaFromSchema, overSourceSchema, type AlphaFrom, type OverSource } from './picture.ts';
import { recipeOf } from './testing.ts';

const named = { root: 'r', folder: '', name: 'sky.png' };
const image = (channels: Image['channels'], codes: number[], width: number): Image => ({
  width,
  height: codes.length / channels / width,
  channels,
  sample: 'u8',
  data: Uint8Array.from(codes),
});
const alphaFrom = (more: Partial<AlphaFrom> = {}) => alphaFromSchema.parse({ source: named, ...more });
const over = (more: Partial<OverSource> = {}) => overSourceSchema.parse({ source: named, ...more });
const { from } = recipeOf();

describe('alpha from another source', () => {
  const picture = image(3, [10, 20, 30, 40, 50, 60], 2);

  test('is its grey or its alpha to the bit, and inverted on demand', () => {
    const convert = (more: Partial<AlphaFrom>, other: Image) => [
      ...makeConverter(recipeOf({ alpha: 'none' }, {}, { alphaFrom: alphaFrom(more) }), 'u8')(picture, {
        alphaFrom: other,
      }).image.data,
    ];
    const grey = image(1, [0, 77], 2);
    expect(convert({}, grey)).toEqual([10, 20, 30, 0, 40, 50, 60, 77]);
    expect(convert({ inverted: true }, grey)).toEqual([10, 20, 30, 255, 40, 50, 60, 178]);
    const rgba = image(4, [9, 9, 9, 5, 9, 9, 9, 250], 2);
    expect(convert({ use: 'alpha' }, rgba)).toEqual([10, 20, 30, 5, 40, 50, 60, 250]);
    expect(() => convert({ use: 'alpha' }, grey)).toThrow('no alpha');
    // Luma of green alone: 0.7152 of 255.
    expect(convert({}, image(3, [0, 255, 0, 255, 255, 255], 2))).toEqual([10, 20, 30, 182, 40, 50, 60, 255]);
  });

  test('takes the place of one that there is, of another depth and size too, and divides colour that has it already', () => {
    const rgba = image(4, [100, 0, 0, 9, 100, 0, 0, 9], 2);
    const matte: Image = { width: 1, height: 1, channels: 1, sample: 'u16', data: Uint16Array.of(128 * 257) };
    const made = makeConverter(recipeOf({}, {}, { alphaFrom: alphaFrom({ premultiplied: true }) }), 'u8')(rgba, {
      alphaFrom: matte,
    });
    expect([...made.image.data]).toEqual([199, 0, 0, 128, 199, 0, 0, 128]);
  });
});

describe('laid over another source', () => {
  const recipe = (more: Partial<OverSource>, to: object = {}) => ({
    ...recipeOf({}, to, { over: over(more) }),
    under: { ...from, alpha: 'none' as const },
  });
  const clear = (width: number, height: number): Image => ({
    width,
    height,
    channels: 4,
    sample: 'u8',
    data: new Uint8Array(width * height * 4),
  });
  const telling = (width: number, height: number): Image =>
    image(3, Array.from({ length: width * height }, (_, at) => [at * 3, at, 7]).flat(), width);

  test('what is clear shows what lies below, code for code; what is opaque hides it', () => {
    const sky = telling(6, 4);
    const below = makeConverter(recipe({ fit: 'own' }), 'u8')(clear(6, 4), { under: sky }).image;
    expect(below.channels).toBe(3);
    expect([...below.data]).toEqual([...sky.data]);
    const top = image(4, Array.from({ length: 24 }, () => [1, 2, 3, 255]).flat(), 6);
    expect([...makeConverter(recipe({}), 'u8')(top, { under: sky }).image.data]).toEqual(
      Array.from({ length: 24 }, () => [1, 2, 3]).flat(),
    );
  });

  test('half over white is the mean, in light or as stored', () => {
    const half = image(4, [0, 0, 0, 128], 1);
    const white = image(3, [255, 255, 255], 1);
    const grey = (light: 'stored' | 'linear') =>
      makeConverter(recipe({ light }), 'u8')(half, { under: white }).image.data[0];
    expect(grey('stored')).toBe(127);
    expect(grey('linear')).toBe(187);
  });

  test('moved by whole pixels it is the same codes elsewhere, and clear where it does not reach', () => {
    const sky = telling(6, 4);
    const { image: made } = makeConverter(recipe({ fit: 'own', right: 2, down: 1 }), 'u8')(clear(6, 4), { under: sky });
    const at = (x: number, y: number) => [...made.data.slice((y * 6 + x) * 4, (y * 6 + x) * 4 + 4)];
    expect(at(1, 1)).toEqual([0, 0, 0, 0]);
    expect(at(2, 1)).toEqual([0, 0, 7, 255]);
    expect(at(5, 3)).toEqual([...sky.data.slice((2 * 6 + 3) * 3, (2 * 6 + 3) * 3 + 3), 255]);
  });

  test('turned by a quarter it is the picture that a quarter turn gives', () => {
    const sky = telling(5, 5);
    const turned = makeConverter(recipe({ fit: 'own', rotation: 90 }), 'u8')(clear(5, 5), { under: sky }).image;
    const straight = makeConverter(recipeOf({ alpha: 'none' }, { alpha: 'none' }, { turn: 90 }), 'u8')(sky).image;
    expect([...turned.data]).toEqual([...straight.data]);
  });

  test('cover covers, within lies within, and both keep the shape', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 400 }),
        fc.integer({ min: 1, max: 400 }),
        fc.integer({ min: 1, max: 400 }),
        fc.integer({ min: 1, max: 400 }),
        (w, h, cw, ch) => {
          const size = { width: w, height: h };
          const canvas = { width: cw, height: ch };
          const cover = sizeBelow(size, canvas, over({ fit: 'cover' }));
          const within = sizeBelow(size, canvas, over({ fit: 'within' }));
          expect(cover.width >= cw && cover.height >= ch).toBe(true);
          expect(within.width <= cw && within.height <= ch).toBe(true);
          expect(cover.width === cw || cover.height === ch).toBe(true);
          expect(sizeBelow(size, canvas, over({ fit: 'own', scale: 200 }))).toEqual({ width: w * 2, height: h * 2 });
        },
      ),
    );
  });
});
