import { fitToShape, isOfShape } from './fit.ts';
import { numberToHalf } from './half.ts';
import type { Image } from './image.ts';
import { alphaPicture, lookAtResult, lossPicture, markColours, statusPicture, statusTones } from './look.ts';
import { markBits } from './ending.ts';
import { recipeOf } from './testing.ts';

const linear = { alpha: 'premultiplied', transfer: 'linear' } as const;
const halves = (values: number[], width: number): Image => ({
  width,
  height: values.length / 4 / width,
  channels: 4,
  sample: 'f16',
  data: Uint16Array.from(values, numberToHalf),
});

test('marks say where something is lost, and what', () => {
  const image = halves([0.5, 0.5, 0.5, 1, 2, 0, 0, 1, 0, -1, 0, 1, NaN, 0, 0, 1, 0.1, 0.1, 0.1, 0.5], 5);
  const straight = lookAtResult(image, recipeOf(linear));
  expect([...straight.marks]).toEqual([0, markBits.high, markBits.low, markBits.notNumber, 0]);
  expect(straight.counts).toMatchObject({ high: [1, 0, 0], low: [0, 1, 0], nan: 1 });
  const flat = lookAtResult(image, recipeOf(linear, { alpha: 'none' }));
  expect([...flat.marks]).toEqual([0, markBits.high, markBits.low, markBits.notNumber, markBits.alpha]);
  const over = lookAtResult(
    image,
    recipeOf(linear, { alpha: 'none' }, { over: { colour: [1, 1, 1], light: 'stored' } }),
  );
  expect(over.marks[4]).toBe(markBits.alpha);
});

test('a picture of losses keeps every mark when it is made smaller', () => {
  const shown: Image = { width: 100, height: 40, channels: 3, sample: 'u8', data: new Uint8Array(12_000).fill(200) };
  const marks = new Uint8Array(4000);
  marks[1234] = markBits.high;
  marks[3999] = markBits.low | markBits.alpha;
  const { width, height, data } = lossPicture(shown, marks, 10);
  expect([width, height]).toEqual([10, 4]);
  const colourAt = (x: number, y: number) => [...data.slice((y * 10 + x) * 3, (y * 10 + x) * 3 + 3)];
  const colourOf = (bit: number) => [...markColours.find(([one]) => one === bit)![1]];
  expect(colourAt(3, 1)).toEqual(colourOf(markBits.high));
  expect(colourAt(9, 3)).toEqual(colourOf(markBits.low));
  expect(colourAt(0, 0)).toEqual([94, 94, 94]);
});

test('status tells clear, partly and full apart, and a matte is alpha alone', () => {
  const image: Image = { width: 3, height: 1, channels: 2, sample: 'u8', data: Uint8Array.of(9, 0, 9, 100, 9, 255) };
  expect([...statusPicture(image, 3).data]).toEqual([...statusTones.clear, ...statusTones.partly, ...statusTones.full]);
  expect([...statusPicture(image, 1).data]).toEqual([...statusTones.partly]);
  expect(alphaPicture(image)).toMatchObject({ channels: 1, data: Uint8Array.of(0, 100, 255) });
  expect([...alphaPicture({ ...image, width: 6, channels: 1 }).data]).toEqual(Array(6).fill(255));
});

test('a picture that differs is fitted: its channels, its size, its place in the middle', () => {
  const shape = { width: 8, height: 4, channels: ['R', 'G', 'B', 'A'] };
  const { from } = recipeOf();
  const grey: Image = { width: 2, height: 2, channels: 1, sample: 'u8', data: new Uint8Array(4).fill(100) };
  expect(isOfShape(grey, shape)).toBe(false);
  const fitted = fitToShape(grey, shape, from);
  expect(isOfShape(fitted, shape)).toBe(true);
  const alphaAt = (x: number) => fitted.data[x * 4 + 3];
  expect([0, 1, 2, 5, 6, 7].map(alphaAt)).toEqual([0, 0, 1, 1, 0, 0]);
  expect(fitted.data[2 * 4]).toBeCloseTo(100 / 255, 6);
  // Only channels differ: no sample is touched.
  const rgb: Image = {
    width: 8,
    height: 4,
    channels: 3,
    sample: 'u16',
    data: Uint16Array.from({ length: 96 }, (_, at) => at * 600),
  };
  const wide = fitToShape(rgb, shape, from);
  expect([wide.sample, ...wide.data.slice(4, 8)]).toEqual(['u16', 1800, 2400, 3000, 65_535]);
  expect([...fitToShape(wide, { ...shape, channels: ['R', 'G', 'B'] }, from).data]).toEqual([...rgb.data]);
  expect(isOfShape(rgb, { ...shape, channels: ['C', 'M', 'Y', 'K'] })).toBe(true);
});
