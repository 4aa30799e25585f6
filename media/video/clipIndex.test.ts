import fc from 'fast-check';
import { keyAt, pictureAt } from './clipIndex.ts';

const rising = fc
  .uniqueArray(fc.integer({ min: 0, max: 500 }), { maxLength: 60 })
  .map((all) => all.sort((a, b) => a - b));

test('the last key at or before a picture is the one that a search from the beginning finds', () =>
  fc.assert(
    fc.property(rising, fc.integer({ min: 0, max: 520 }), (pictures, picture) => {
      const keys = pictures.map((one) => ({ picture: one, pts: 0n, dts: 0n }));
      expect(keyAt({ keys }, picture)).toBe(pictures.findLastIndex((one) => one <= picture));
    }),
  ));

test('a picture is found by its time, and by no other', () =>
  fc.assert(
    fc.property(rising, fc.integer({ min: 0, max: 520 }), (times, tick) =>
      expect(pictureAt({ times: Float64Array.from(times) }, tick)).toBe(times.indexOf(tick)),
    ),
  ));
