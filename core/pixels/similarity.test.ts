import type { Image } from './image.ts';
import { similarityOf } from './similarity.ts';

const picture = (value: (x: number, y: number) => number, width = 19, height = 13): Image => ({
  width,
  height,
  channels: 1,
  sample: 'u8',
  data: Uint8Array.from({ length: width * height }, (_, at) => value(at % width, Math.floor(at / width))),
});

test('a picture is like itself, and another shape is like nothing', () => {
  const one = picture((x, y) => (x * 7 + y * 13) & 255);
  expect(similarityOf(one, one)).toEqual({ psnr: null, ssim: 1 });
  expect(
    similarityOf(
      one,
      picture(() => 0, 18),
    ),
  ).toBeUndefined();
});

test('one code off everywhere is 48.13 dB: 20 log10 255', () => {
  const one = picture((x) => x * 4);
  const other = picture((x) => x * 4 + 1);
  expect(similarityOf(one, other)!.psnr).toBeCloseTo(20 * Math.log10(255), 9);
});

test('of two flat pictures only light differs: the formula by hand', () => {
  const [a, b] = [100 / 255, 120 / 255];
  const expected = (2 * a * b + 0.0001) / (a * a + b * b + 0.0001);
  expect(
    similarityOf(
      picture(() => 100),
      picture(() => 120),
    )!.ssim,
  ).toBeCloseTo(expected, 6);
});

test('the opposite structure is less alike than noise, and both less than a small shift of light', () => {
  const board = picture((x, y) => ((x + y) % 2 === 0 ? 200 : 50), 16, 16);
  const turned = picture((x, y) => ((x + y) % 2 === 0 ? 50 : 200), 16, 16);
  const noise = picture((x, y) => (Math.imul(x * 31 + y * 17 + 1, 2_654_435_761) >>> 24) & 255, 16, 16);
  const lighter = picture((x, y) => ((x + y) % 2 === 0 ? 204 : 54), 16, 16);
  const [opposite, random, light] = [turned, noise, lighter].map((one) => similarityOf(board, one)!.ssim);
  expect(opposite).toBeLessThan(0);
  expect(random).toBeGreaterThan(opposite!);
  expect(light).toBeGreaterThan(0.99);
});
