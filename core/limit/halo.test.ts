import type { Image } from '../pixels/image.ts';
import { haloOf } from './halo.ts';

const row = (...pixels: number[][]): Image => ({
  ...{ width: pixels.length, height: 1, channels: 4, sample: 'u8' },
  data: Uint8Array.from(pixels.flat()),
});

test('an edge blended onto white is a halo on dark and none on light; its own colour is one where it is far from the ground', () => {
  // Half of red on white is pink.
  const meant = row([255, 0, 0, 255], [255, 0, 0, 128], [0, 0, 0, 0]);
  expect(haloOf(meant, row([255, 0, 0, 255], [255, 127, 127, 255], [0, 0, 0, 0]))).toEqual({ dark: 1, light: 0 });
  expect(haloOf(meant, row([255, 0, 0, 255], [255, 0, 0, 255], [0, 0, 0, 0]))).toEqual({ dark: 1, light: 1 });
  expect(haloOf(meant, row([255, 0, 0, 255], [140, 16, 17, 255], [0, 0, 0, 0]))).toEqual({ dark: 0, light: 1 });
});

test('what is cut off, what is opaque and what stays half-clear is none; 16 bits are judged as 8 are', () => {
  const meant = row([9, 9, 9, 255], [200, 0, 0, 60], [200, 0, 0, 60]);
  expect(haloOf(meant, row([200, 9, 9, 255], [0, 0, 0, 0], [200, 0, 0, 60]))).toEqual({ dark: 0, light: 0 });
  const deep: Image = { ...meant, sample: 'u16', data: Uint16Array.from(meant.data, (one) => one * 257) };
  expect(haloOf(deep, row([9, 9, 9, 255], [200, 0, 0, 255], [0, 0, 0, 0]))).toEqual({ dark: 1, light: 1 });
});
