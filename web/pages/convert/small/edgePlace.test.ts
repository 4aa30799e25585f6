import { edgeIn } from './edgePlace.ts';

const picture = (rows: string[]): [Uint8ClampedArray, number, number] => [
  Uint8ClampedArray.from(
    rows
      .join('')
      .split('')
      .flatMap((one) => [0, 0, 0, one === '.' ? 0 : 255]),
  ),
  rows[0]!.length,
  rows.length,
];

test('an edge is looked for from the top, in the middle first', () => {
  expect(edgeIn(...picture(['....', '..#.', '..#.', '....']))).toEqual({ x: 0.625, y: 0.375 });
  expect(edgeIn(...picture(['..#.', '....', '.#..', '....']))).toEqual({ x: 0.375, y: 0.625 });
});

test('what is clear or opaque throughout has none', () => {
  expect(edgeIn(...picture(['....', '....']))).toBeUndefined();
  expect(edgeIn(...picture(['####', '####']))).toBeUndefined();
  expect(edgeIn(...picture(['#']))).toBeUndefined();
});
