import fc from 'fast-check';
import { bayer, ditherNames, makeIndexer } from './indexed.ts';

const palettes = fc
  .uint8Array({ minLength: 3, maxLength: 90 })
  .map((bytes) => bytes.subarray(0, bytes.length - (bytes.length % 3)));

test('without a dither each pixel gets the nearest colour, as trying all of them finds it', () => {
  fc.assert(
    fc.property(
      palettes,
      fc.array(fc.uint8Array({ minLength: 3, maxLength: 3 }), { minLength: 1, maxLength: 40 }),
      (palette, pixels) => {
        const rgba = Uint8Array.from(pixels.flatMap((pixel) => [...pixel, 255]));
        const indices = makeIndexer({ palette, clear: undefined, dither: 'none', amount: 1 })(rgba, pixels.length);
        pixels.forEach((pixel, at) => {
          const apart = (index: number) =>
            [0, 1, 2].reduce((sum, channel) => sum + (palette[index * 3 + channel]! - pixel[channel]!) ** 2, 0);
          const least = Math.min(...Array.from({ length: palette.length / 3 }, (_, index) => apart(index)));
          expect(apart(indices[at]!)).toBe(least);
        });
      },
    ),
  );
});

test('the pattern holds each threshold once, opposite ones far apart', () => {
  expect([...bayer].sort((a, b) => a - b)).toEqual(Array.from({ length: 64 }, (_, at) => at));
  // The pattern of two by two that all others are made of (Bayer, 1973).
  expect([bayer[0]! >> 4, bayer[1]! >> 4, bayer[8]! >> 4, bayer[9]! >> 4]).toEqual([0, 2, 3, 1]);
});

test.each(ditherNames.filter((name) => name !== 'none'))(
  '%s: a grey between two is shown by as much of each',
  (dither) => {
    const palette = Uint8Array.from([96, 96, 96, 160, 160, 160]);
    const side = 64;
    for (const grey of [104, 128, 150]) {
      const rgba = new Uint8Array(side * side * 4).fill(255);
      for (let at = 0; at < rgba.length; at += 4) rgba.fill(grey, at, at + 3);
      const indices = makeIndexer({ palette, clear: undefined, dither, amount: 1 })(rgba, side);
      const mean = indices.reduce((sum, index) => sum + palette[index * 3]!, 0) / indices.length;
      // Atkinson's hands on three quarters of the error alone.
      expect(Math.abs(mean - grey)).toBeLessThan(dither === 'atkinson' ? 12 : 2);
      expect(new Set(makeIndexer({ palette, clear: undefined, dither, amount: 0 })(rgba, side)).size).toBe(1);
    }
  },
);

test('colours of the palette stay, and clear pixels neither take nor give an error', () => {
  const palette = Uint8Array.from([0, 0, 0, 255, 255, 255, 200, 10, 30]);
  const rgba = Uint8Array.from([
    200, 10, 30, 255, 90, 90, 90, 0, 255, 255, 255, 255, 0, 0, 0, 255, 90, 90, 90, 0, 200, 10, 30, 255,
  ]);
  for (const dither of ditherNames)
    expect([...makeIndexer({ palette, clear: 3, dither, amount: 1 })(rgba, 3)]).toEqual([2, 3, 1, 0, 3, 2]);
});
