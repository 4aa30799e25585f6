import fc from 'fast-check';
import { tiffAddon } from '../tiff/addon.ts';
import { isOldLzw, lzwLength } from './lzw.ts';

/** Bytes by LZW, as a strip of one row. */
async function lzwOf(bytes: Uint8Array): Promise<Buffer> {
  const { length: width } = bytes;
  const piece = { width, height: 1, pieceWidth: width, pieceHeight: 1, tiles: false, planes: false, little: true };
  const layout = { ...piece, stored: 1, taken: 1, bytes: 1, compression: 5, predictor: 1 } as const;
  return (await tiffAddon.encode(bytes, layout, 1)).strips;
}

test('what is encoded stands for as many bytes as went in, whatever they are', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.oneof(
        fc.uint8Array({ minLength: 1, maxLength: 9000 }),
        fc.array(fc.constantFrom(0, 1, 255), { minLength: 1, maxLength: 20_000 }),
      ),
      async (bytes) => lzwLength(await lzwOf(Uint8Array.from(bytes))) === bytes.length,
    ),
  );
});

test('a table that fills and is begun anew is followed', async () => {
  const noise = Uint8Array.from({ length: 200_000 }, (_, at) => (Math.imul(at + 1, 2_654_435_761) >>> 13) & 255);
  expect(lzwLength(await lzwOf(noise))).toBe(noise.length);
});

test('damage shows: a code that is not made yet, a beginning without a clear, another length', async () => {
  const whole = await lzwOf(Uint8Array.from({ length: 20_000 }, (_, at) => (at >> 6) & 255));
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

test('data of the kind before TIFF 5 is told apart', async () => {
  expect(isOldLzw(Uint8Array.of(0x00, 0x01))).toBe(true);
  expect(isOldLzw(await lzwOf(Uint8Array.of(1, 2, 3)))).toBe(false);
});
