import { goesBack } from './way.ts';

test('an undo goes back, and the undo of an undo forth again', () => {
  const all = [
    { id: 'd', undoes: 'c' },
    { id: 'c', undoes: 'b' },
    { id: 'b', undoes: 'a' },
    { id: 'a', undoes: null },
    { id: 'x', undoes: 'long ago' },
  ];
  expect(all.map((one) => goesBack(one, all))).toEqual([true, false, true, false, true]);
});
