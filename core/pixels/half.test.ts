import { halfTable, halfToNumber, numberToHalf } from './half.ts';

describe('half floats (IEEE 754-2008 binary16)', () => {
  test.each([
    [0x0000, 0],
    [0x0001, 2 ** -24],
    [0x03ff, 1023 * 2 ** -24],
    [0x0400, 2 ** -14],
    [0x3555, 0.333251953125],
    [0x3c00, 1],
    [0xc000, -2],
    [0x7bff, 65_504],
    [0x7c00, Infinity],
    [0xfc00, -Infinity],
  ])('%i is %d both ways', (bits, value) => {
    expect(halfToNumber(bits)).toBe(value);
    expect(numberToHalf(value)).toBe(bits);
  });

  test('all 65,536 come back as they were, NaN as NaN', () => {
    const table = halfTable();
    for (let bits = 0; bits < 65_536; bits += 1) {
      const value = table[bits]!;
      if (Number.isNaN(value)) expect(numberToHalf(value)).toBe(0x7e00);
      else if (numberToHalf(value) !== bits) throw new Error(`${bits} came back as ${numberToHalf(value)}`);
    }
  });

  test('rounds to nearest, ties to even', () => {
    for (let bits = 0; bits < 0x7bff; bits += 1) {
      const low = halfToNumber(bits);
      const high = halfToNumber(bits + 1);
      const middle = (low + high) / 2;
      if (numberToHalf(middle) !== (bits % 2 === 0 ? bits : bits + 1)) throw new Error(`tie above ${bits}`);
      if (numberToHalf(middle - (high - low) * 0.01) !== bits) throw new Error(`below the tie of ${bits}`);
      if (numberToHalf(middle + (high - low) * 0.01) !== bits + 1) throw new Error(`above the tie of ${bits}`);
    }
    expect(numberToHalf(65_519.99)).toBe(0x7bff);
    expect(numberToHalf(65_520)).toBe(0x7c00);
    expect(numberToHalf(-0)).toBe(0x8000);
  });
});
