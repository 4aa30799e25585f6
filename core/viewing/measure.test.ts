import fc from 'fast-check';
import type { Image } from '../pixels/image.ts';
import { comparePictures } from './measure.ts';
import { ssimOf, type Plane } from './ssim.ts';
import type { Taken } from './view.ts';

const srgb: Taken = { alpha: 'straight', transfer: 'srgb', primaries: 'bt709', matte: null };
const picture = (
  width: number,
  height: number,
  channels: Image['channels'],
  of: (at: number) => number,
  sample: 'u8' | 'u16' = 'u8',
): Image => {
  const data = sample === 'u8' ? new Uint8Array(width * height * channels) : new Uint16Array(width * height * channels);
  for (let at = 0; at < data.length; at += 1) data[at] = of(at);
  return { width, height, channels, sample, data };
};
const noise = (seed: number) => (at: number) => ((at + 1) * 7919 * seed) % 251;
const compare = (a: Image, b: Image, takenA = srgb, takenB = srgb) =>
  comparePictures({ image: a, taken: takenA }, { image: b, taken: takenB })!;

test('the same picture differs in nothing', () => {
  const image = picture(16, 12, 4, noise(3));
  const found = compare(image, image);
  expect(found).toMatchObject({ most: 0, mean: 0, psnr: null, changed: 0, beyondRounding: 0, at: null, pixels: 192 });
  expect(found.ssim).toBeCloseTo(1, 12);
});

test('errors are those of a plain sum over the samples', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 250 }), fc.integer({ min: 1, max: 250 }), (one, other) => {
      const [a, b] = [picture(9, 7, 3, noise(one)), picture(9, 7, 3, noise(other))];
      const found = compare(a, b);
      const off = Array.from(a.data, (code, at) => Math.abs(code - b.data[at]!) / 255);
      expect(found.most).toBeCloseTo(Math.max(...off), 6);
      expect(found.mean).toBeCloseTo(off.reduce((sum, value) => sum + value, 0) / off.length, 6);
      const square = off.reduce((sum, value) => sum + value * value, 0) / off.length;
      if (square > 0) expect(found.psnr).toBeCloseTo(-10 * Math.log10(square), 3);
      const pixels = Array.from({ length: 63 }, (_, at) => off.slice(at * 3, at * 3 + 3).some((value) => value > 0));
      expect(found.changed).toBe(pixels.filter(Boolean).length);
      expect(found.ssim).toBeNull();
    }),
  );
});

test('a constant error of one code of 255 has the PSNR that the formula gives', () => {
  // 20 log10(255), the peak over the error.
  expect(
    compare(
      picture(4, 4, 1, () => 100),
      picture(4, 4, 1, () => 101),
    ).psnr,
  ).toBeCloseTo(48.1308, 3);
});

test('16 bits rounded to 8 differ nearly everywhere and nowhere by more than half a step', () => {
  const fine = picture(20, 20, 4, (at) => (at * 7919) % 65_536, 'u16');
  const coarse = picture(20, 20, 4, (at) => Math.round(fine.data[at]! / 257));
  const found = compare(fine, coarse);
  expect(found.step).toBe(1 / 255);
  expect(found.most).toBeLessThanOrEqual(0.5 / 255 + 1e-6);
  expect(found.changed).toBeGreaterThan(350);
  expect(found.beyondRounding).toBe(0);
});

test('the worst pixel is found', () => {
  const a = picture(8, 8, 3, () => 90);
  const b = { ...a, data: a.data.slice() };
  b.data[(5 * 8 + 3) * 3 + 1] = 200;
  expect(compare(a, b)).toMatchObject({ at: { x: 3, y: 5 }, changed: 1, beyondRounding: 1 });
});

test('curve, primaries and alpha are brought together before anything is compared', () => {
  const linear: Image = { width: 1, height: 1, channels: 4, sample: 'f32', data: Float32Array.of(0.25, 0.1, 0, 0.5) };
  const encode = (light: number) => 1.055 * light ** (1 / 2.4) - 0.055;
  const values: Image = {
    width: 1,
    height: 1,
    channels: 4,
    sample: 'f32',
    data: Float32Array.of(encode(0.5), encode(0.2), 0, 0.5),
  };
  const found = compare(linear, values, { ...srgb, alpha: 'premultiplied', transfer: 'linear' });
  expect(found).toMatchObject({ transfer: 'srgb', alpha: 'premultiplied', step: null });
  expect(found.most).toBeLessThan(1e-5);
  const grey: Image = { width: 1, height: 1, channels: 1, sample: 'u8', data: Uint8Array.of(50) };
  const colour: Image = { width: 1, height: 1, channels: 3, sample: 'u8', data: Uint8Array.of(50, 50, 50) };
  expect(compare(grey, colour).most).toBe(0);
});

test('what is no number is counted and kept out of the errors; in both it is the same', () => {
  const of = (...values: number[]): Image => ({
    width: 2,
    height: 1,
    channels: 1,
    sample: 'f32',
    data: Float32Array.from(values),
  });
  const linear = { ...srgb, transfer: 'linear' as const };
  expect(compare(of(NaN, 0.5), of(0.25, 0.5), linear, linear)).toMatchObject({ notNumbers: 1, most: 0, changed: 1 });
  expect(compare(of(NaN, Infinity), of(NaN, Infinity), linear, linear)).toMatchObject({ notNumbers: 0, changed: 0 });
});

test('pictures of two sizes are not compared', () => {
  expect(
    comparePictures(
      { image: picture(2, 2, 1, noise(1)), taken: srgb },
      { image: picture(2, 3, 1, noise(1)), taken: srgb },
    ),
  ).toBeUndefined();
});

/** The formula of the paper, window by window, for a check. */
function plainSsim(a: Plane, b: Plane): number {
  const weights: number[] = [];
  for (let y = -5; y <= 5; y += 1) for (let x = -5; x <= 5; x += 1) weights.push(Math.exp(-(x * x + y * y) / 4.5));
  const all = weights.reduce((sum, weight) => sum + weight, 0);
  let [total, count] = [0, 0];
  for (let top = 0; top + 11 <= a.height; top += 1) {
    for (let left = 0; left + 11 <= a.width; left += 1) {
      const taken = weights.map((weight, at) => {
        const place = (top + Math.floor(at / 11)) * a.width + left + (at % 11);
        return [weight / all, a.data[place]!, b.data[place]!] as const;
      });
      const mean = (of: (x: number, y: number) => number) =>
        taken.reduce((sum, [weight, x, y]) => sum + weight * of(x, y), 0);
      const [ma, mb] = [mean((x) => x), mean((_, y) => y)];
      const [va, vb, cov] = [
        mean((x) => (x - ma) ** 2),
        mean((_, y) => (y - mb) ** 2),
        mean((x, y) => (x - ma) * (y - mb)),
      ];
      total += ((2 * ma * mb + 1e-4) * (2 * cov + 9e-4)) / ((ma * ma + mb * mb + 1e-4) * (va + vb + 9e-4));
      count += 1;
    }
  }
  return total / count;
}

test('structural similarity is that of the formula', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 11, max: 17 }),
      fc.integer({ min: 11, max: 15 }),
      fc.integer({ min: 1, max: 250 }),
      (width, height, seed) => {
        const plane = (of: (at: number) => number): Plane => ({
          width,
          height,
          data: Float32Array.from({ length: width * height }, (_, at) => of(at) / 255),
        });
        const [a, b] = [plane(noise(seed)), plane((at) => (noise(seed)(at) + at) % 256)];
        expect(ssimOf(a, b)).toBeCloseTo(plainSsim(a, b), 8);
      },
    ),
    { numRuns: 20 },
  );
});
