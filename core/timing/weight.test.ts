import { printBits, weightOf, type Weighed } from './weight.ts';

const measured = (bytes: number, milliseconds: number): Weighed => ({
  bytes: [
    [0, bytes],
    [1, bytes],
  ],
  decode: [
    [0, milliseconds],
    [1, milliseconds],
  ],
  frameMemory: 1920 * 1080 * 4,
  failed: 0,
});
const rate = { num: 24_000, den: 1001 };

test('data, speed and memory are those of the rate', () => {
  const weight = weightOf(measured(100_000, 10), rate);
  expect(weight.bitrate).toBeCloseTo((100_000 * 8 * 24_000) / 1001, 3);
  expect(weight.decodeRate).toBeCloseTo(100, 6);
  expect(weight.secondMemory).toBeCloseTo((1920 * 1080 * 4 * 24_000) / 1001, 3);
  expect(weight.verdict).toBe('plays');
});

test.each([
  [100_000, 40, 'close'],
  [100_000, 60, 'stutters'],
  [6_000_000, 10, 'close'],
  [6_000_000, 160, 'stutters'],
])('%d bytes and %d ms a frame: %s', (bytes, milliseconds, verdict) => {
  expect(weightOf(measured(bytes, milliseconds), rate).verdict).toBe(verdict);
});

test('nothing decoded is told', () =>
  expect(weightOf({ ...measured(1, 1), decode: [], failed: 3 }, rate)).toMatchObject({
    verdict: 'stutters',
    decodeRate: null,
  }));

test.each([
  [950_000, '950 kb'],
  [12_500_000, '12.5 Mb'],
  [2_340_000_000, '2.34 Gb'],
])('%d bits are %s', (bits, words) => expect(printBits(bits)).toBe(words));
