import fc from 'fast-check';
import { isOldLzw, lzwEncode, lzwLength } from './lzw.ts';

test('what is encoded stands for as many bytes as went in, whatever they are', () => {
  fc.assert(
    fc.property(
      fc.oneof(fc.uint8Array({ maxLength: 9000 }), fc.array(fc.constantFrom(0, 1, 255), { maxLength: 20_000 })),
      (bytes) => lzwLength(lzwEncode(Uint8Array.from(bytes))) === bytes.length,
    ),
  );
});

test('a table that fills and is begun anew is followed', () => {
  const noise = Uint8Array.from({ length: 200_000 }, (_, at) => (Math.imul(at + 1, 2_654_435_761) >>> 13) & 255);
  expect(lzwLength(lzwEncode(noise))).toBe(noise.length);
});

test('damage shows: a code that is not made yet, a beginning without a clear, another length', () => {
  const whole = lzwEncode(Uint8Array.from({ length: 20_000 }, (_, at) => (at >> 6) & 255));
  const wrong = Buffer.from(whole);
  wrong.fill(0xff, 40, 60);
  expect(() => lzwLength(wrong)).toThrow('not made yet');
  expect(() => lzwLength(whole.subarray(2))).toThrow('clear');
  expect(lzwLength(whole.subarray(0, whole.length >> 1))).toBeLessThan(20_000);
  // Long strings: nearly every bit that flips changes how long the whole is.
  let seen = 0;
  for (let at = 4; at < 204; at += 1) {
    const flipped = Buffer.from(whole);
    flipped[at % whole.length]! ^= 1 << (at & 7);
    try {
      if (lzwLength(flipped) !== 20_000) seen += 1;
    } catch {
      seen += 1;
    }
  }
  expect(seen).toBeGreaterThan(150);
});

test('data of the kind before TIFF 5 is told apart', () => {
  expect(isOldLzw(Uint8Array.of(0x00, 0x01))).toBe(true);
  expect(isOldLzw(lzwEncode(Uint8Array.of(1, 2, 3)))).toBe(false);
});
