import fc from 'fast-check';
import { difference, type Piece } from './difference.ts';

const own = (pieces: Piece[]) => pieces.filter((piece) => piece.own).map(({ text }) => text);
const whole = (pieces: Piece[]) => pieces.map(({ text }) => text).join('');

test.each([
  ['bell_turn_1.png', 'bell_turn_01.png', ['1'], ['01']],
  ['a.png', 'a.png', [], []],
  ['bell_turn_1.png', 'bellturn.0000.png', ['_', '_1'], ['.0000']],
  ['pan.0001.exr', 'pan.0002.exr', ['0001'], ['0002']],
  ['tram😀.png', 'tram😁.png', ['😀'], ['😁']],
])('%s and %s', (from, to, was, is) => {
  const [before, after] = difference(from, to);
  expect([own(before), own(after)]).toEqual([was, is]);
});

test('the pieces make the names again, and what is in both is the same', () => {
  fc.assert(
    fc.property(fc.string({ maxLength: 30 }), fc.string({ maxLength: 30 }), (from, to) => {
      const [before, after] = difference(from, to);
      expect([whole(before), whole(after)]).toEqual([from, to]);
      const common = (pieces: Piece[]) => whole(pieces.filter((piece) => !piece.own));
      expect(common(before)).toBe(common(after));
    }),
  );
});
