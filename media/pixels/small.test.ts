import fc from 'fast-check';
import { halfTable, maxCode, numberToHalf, type Image } from '@shale/core';
import { smallOf } from './small.ts';

/** The mean of what each of so many columns covers, written plainly. */
function plainly({ width, height, channels, sample, data }: Image, columns: number): number[] {
  const most = maxCode(sample);
  const value = (stored: number) => (sample === 'f16' ? halfTable()[stored]! : stored);
  const shown = (stored: number) =>
    most === undefined
      ? 255 * Math.sqrt(value(stored) > 0 ? Math.min(1, value(stored)) : 0)
      : (255 * value(stored)) / most;
  const colours = channels > 2 ? 3 : 1;
  return Array.from({ length: columns * height }, (_, at) => {
    const [column, y] = [at % columns, Math.floor(at / columns)];
    const means: number[] = [];
    for (let x = 0; x < width; x += 1) {
      if (Math.floor((x * columns) / width) !== column) continue;
      const pixel = Array.from(data.subarray((y * width + x) * channels, (y * width + x + 1) * channels));
      const alpha = channels % 2 === 1 ? 1 : value(pixel[colours]!) / (most ?? 1);
      means.push((pixel.slice(0, colours).reduce((sum, stored) => sum + shown(stored), 0) / colours) * alpha);
    }
    return means.reduce((sum, one) => sum + one, 0) / Math.max(1, means.length);
  });
}

test('a picture is made small row by row, whatever its size, channels and samples', () => {
  fc.assert(
    fc.property(
      fc.record({
        width: fc.integer({ min: 1, max: 90 }),
        height: fc.integer({ min: 1, max: 6 }),
        channels: fc.constantFrom(1 as const, 2 as const, 3 as const, 4 as const),
        sample: fc.constantFrom('u8' as const, 'u10' as const, 'u16' as const, 'f16' as const, 'f32' as const),
        columns: fc.constantFrom(1, 7, 64),
        seed: fc.nat(),
      }),
      ({ width, height, channels, sample, columns, seed }) => {
        let state = seed;
        const next = () => (state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) / 2 ** 32;
        const most = maxCode(sample);
        const samples = Array.from({ length: width * height * channels }, () =>
          most === undefined ? next() * 1.5 - 0.25 : Math.floor(next() * (most + 1)),
        );
        const data =
          sample === 'u8'
            ? Uint8Array.from(samples)
            : sample === 'f32'
              ? Float32Array.from(samples)
              : Uint16Array.from(samples, (one) => (sample === 'f16' ? numberToHalf(one) : one));
        const image: Image = { width, height, channels, sample, data };
        const { rows, data: small } = smallOf(image, columns);
        expect(rows).toBe(height);
        plainly(image, columns).forEach((mean, at) => expect(Math.abs(small[at]! - mean)).toBeLessThan(0.001));
      },
    ),
  );
});
