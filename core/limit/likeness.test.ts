import type { Image } from '../pixels/image.ts';
import { likenessOf } from './likeness.ts';

const picture = (
  width: number,
  height: number,
  of: (x: number, y: number) => number[],
  sample: 'u8' | 'u16' = 'u8',
): Image => {
  const values = Array.from({ length: width * height }, (_, at) => of(at % width, Math.floor(at / width))).flat();
  const data = sample === 'u8' ? Uint8Array.from(values) : Uint16Array.from(values);
  return { width, height, channels: (values.length / width / height) as 3, sample, data };
};
const waves = (x: number, y: number) => [128 + 100 * Math.sin(x / 5), 128 + 100 * Math.cos(y / 7), 90];

test('the same is 1; a smaller one is less, the smaller the less', () => {
  const wanted = picture(64, 48, waves);
  expect(likenessOf(wanted, wanted)).toBeCloseTo(1, 6);
  const smaller = (by: number) =>
    picture(64 / by, 48 / by, (x, y) => waves(x * by + (by - 1) / 2, y * by + (by - 1) / 2));
  const [half, quarter] = [likenessOf(wanted, smaller(2)), likenessOf(wanted, smaller(4))];
  expect(half).toBeLessThan(1);
  expect(quarter).toBeLessThan(half);
  expect(half).toBeGreaterThan(0.9);
});

test('colour under clear pixels is not seen, alpha is; depths compare by what they mean', () => {
  const clear = (colour: number, alpha: number) =>
    picture(16, 16, (x) => (x < 8 ? [200, 30, 30, 255] : [colour, 0, 0, alpha]));
  expect(likenessOf(clear(0, 0), clear(255, 0))).toBeCloseTo(1, 6);
  expect(likenessOf(clear(0, 0), clear(0, 255))).toBeLessThan(0.9);
  const deep = picture(16, 16, (x, y) => waves(x, y).map((one) => Math.round(one) * 257), 'u16');
  expect(
    likenessOf(
      deep,
      picture(16, 16, (x, y) => waves(x, y).map(Math.round)),
    ),
  ).toBeCloseTo(1, 5);
});
