import fc from 'fast-check';
import { difference } from './difference.ts';

test.each([
  ['bell_turn_1.png', 'bell_turn_01.png', '', '0'],
  ['a.png', 'a.png', '', ''],
  ['Poster.PNG', 'poster.png', 'Poster.PNG', 'poster.png'],
  ['pan.0001.exr', 'pan.0002.exr', '1', '2'],
  ['tram😀.png', 'tram😁.png', '😀', '😁'],
])('%s and %s differ in "%s" and "%s"', (from, to, was, is) => {
  const [before, after] = difference(from, to);
  expect([before.own, after.own]).toEqual([was, is]);
});

test('the parts make the names again, and share start and end', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme' }), fc.string({ unit: 'grapheme' }), (from, to) => {
      const [before, after] = difference(from, to);
      expect(before.start + before.own + before.end).toBe(from);
      expect(after.start + after.own + after.end).toBe(to);
      expect([before.start, before.end]).toEqual([after.start, after.end]);
    }),
  );
});
