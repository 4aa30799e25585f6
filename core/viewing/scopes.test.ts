import fc from 'fast-check';
import { numberToHalf } from '../pixels/half.ts';
import type { Image } from '../pixels/image.ts';
import { channelLetters, samplesAt } from './samples.ts';
import { scopesOf } from './scopes.ts';

const grey = (width: number, data: number[]): Image => ({
  width,
  height: data.length / width,
  channels: 1,
  sample: 'u8',
  data: Uint8Array.from(data),
});

test('counts, ends, mean and deviation are those of the samples', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 255 }), { minLength: 12, maxLength: 12 }), (data) => {
      const [scope] = scopesOf(grey(4, data)).channels;
      const mean = data.reduce((sum, code) => sum + code, 0) / 12;
      expect(scope!.least).toBe(Math.min(...data));
      expect(scope!.most).toBe(Math.max(...data));
      expect(scope!.mean).toBeCloseTo(mean, 10);
      expect(scope!.deviation).toBeCloseTo(Math.sqrt(data.reduce((sum, code) => sum + (code - mean) ** 2, 0) / 12), 10);
      expect(scope!.bottom).toBe(data.filter((code) => code === 0).length);
      expect(scope!.top).toBe(data.filter((code) => code === 255).length);
      data.forEach((code) => expect(scope!.histogram[code]).toBe(data.filter((one) => one === code).length));
      expect(scope!.waveform.reduce((sum, one) => sum + one, 0)).toBe(12);
    }),
  );
});

test('a box is looked at alone, and a column of the waveform is a column of it', () => {
  const image = grey(4, [0, 10, 20, 30, 40, 50, 60, 255]);
  const { channels, columns, levels, box } = scopesOf(image, { left: 2, top: 0, width: 2, height: 2 });
  expect(box).toEqual({ left: 2, top: 0, width: 2, height: 2 });
  expect(channels[0]).toMatchObject({ least: 20, most: 255, mean: (20 + 30 + 60 + 255) / 4, top: 1, bottom: 0 });
  expect(columns).toBe(2);
  expect(channels[0]!.waveform[levels + levels - 1]).toBe(1);
  expect(channels[0]!.waveform[levels - 1]).toBe(0);
});

test.each(['f16', 'f32'] as const)('%s: what is no number is counted, and left out of the rest', (sample) => {
  const values = [NaN, Infinity, -0.5, 0.25, 3, 0.5];
  const data = sample === 'f32' ? Float32Array.from(values) : Uint16Array.from(values, numberToHalf);
  const { channels, domain, integers } = scopesOf({ width: 6, height: 1, channels: 1, sample, data });
  expect(integers).toBe(false);
  expect(domain).toEqual([-0.5, 3]);
  expect(channels[0]).toMatchObject({ nan: 1, infinite: 1, below: 1, least: -0.5, most: 3, mean: 3.25 / 4 });
  expect(channels[0]!.above).toBe(2);
  expect(channels[0]!.histogram.reduce((sum, one) => sum + one, 0)).toBe(4);
});

test('a channel without a number has no ends', () => {
  const [scope] = scopesOf({ width: 1, height: 1, channels: 1, sample: 'f32', data: Float32Array.of(NaN) }).channels;
  expect(scope).toMatchObject({ least: null, most: null, mean: null, deviation: null, nan: 1 });
});

test('a pixel has its samples in their own units', () => {
  const image: Image = {
    width: 2,
    height: 1,
    channels: 2,
    sample: 'f16',
    data: Uint16Array.from([1, 2, 0.5, 0.25].map(numberToHalf)),
  };
  expect(samplesAt(image, 1, 0)).toEqual([0.5, 0.25]);
  expect(samplesAt(grey(2, [7, 9]), 1, 0)).toEqual([9]);
  expect(channelLetters(2)).toEqual(['Y', 'A']);
  expect(channelLetters(4)).toEqual(['R', 'G', 'B', 'A']);
});
