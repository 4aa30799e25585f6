import fc from 'fast-check';
import { lighterOf } from './lighter.ts';
import { weightOf } from './weight.ts';

const rate = { num: 24, den: 1 };
const weightAt = (milliseconds: number, bytes = 100_000) =>
  weightOf({ bytes: [[0, bytes]], decode: [[0, milliseconds]], frameMemory: 4, failed: 0 }, rate);

test('what plays has no lighter version, nor has what cannot be decoded', () => {
  expect(lighterOf('png', 'h264', weightAt(5), rate)).toEqual([]);
  expect(lighterOf('png', 'h264', weightOf({ bytes: [], decode: [], frameMemory: 4, failed: 2 }, rate), rate)).toEqual(
    [],
  );
});

test('of another codec three sizes are offered and nothing is promised', () => {
  expect(lighterOf('exr', 'h264', weightAt(200), rate)).toEqual([
    { scale: 1, words: 'H.264, its own size', plays: false },
    { scale: 0.5, words: 'H.264, half size', plays: false },
    { scale: 0.25, words: 'H.264, quarter size', plays: false },
  ]);
});

test('of the same codec its own size, as heavy again, is left out, and the others are reckoned', () => {
  // 20 frames a second: at half size 80, which is more than 24 with room.
  expect(lighterOf('h264', 'h264', weightAt(50), rate)).toEqual([
    { scale: 0.5, words: 'H.264, half size', tells: 'about 80 frames a second', plays: true },
    { scale: 0.25, words: 'H.264, quarter size', tells: 'about 320 frames a second', plays: false },
  ]);
  // Decoded in time, and its data much for a slow disk: its own size with fewer bytes does help.
  expect(lighterOf('vp9', 'vp9', weightAt(10, 6_000_000), rate).map(({ words }) => words)).toEqual([
    'VP9 with alpha, its own size',
    'VP9 with alpha, half size',
    'VP9 with alpha, quarter size',
  ]);
});

test('one at most is said to play, and none larger is reckoned to', () => {
  fc.assert(
    fc.property(fc.double({ min: 1, max: 3000, noNaN: true }), fc.boolean(), (milliseconds, isSame) => {
      const versions = lighterOf(isSame ? 'h264' : 'exr', 'h264', weightAt(milliseconds), rate);
      const at = versions.findIndex(({ plays }) => plays);
      expect(versions.filter(({ plays }) => plays).length).toBe(at < 0 ? 0 : 1);
      for (const { scale } of versions.slice(0, Math.max(0, at)))
        expect(1000 / milliseconds / scale ** 2).toBeLessThan(24 * 1.3);
    }),
  );
});
