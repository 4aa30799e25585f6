import { crcOf, Ffv1Slices } from './ffv1Slices.ts';

const bytesOf = (text: string) => new TextEncoder().encode(text);

/** The same CRC a bit at a time, as RFC 9043 words it. */
function slowCrc(bytes: Uint8Array): number {
  let crc = 0;
  for (const byte of bytes) {
    crc ^= byte << 24;
    for (let bit = 0; bit < 8; bit += 1) crc = crc < 0 ? (crc << 1) ^ 0x04c11db7 : crc << 1;
  }
  return crc >>> 0;
}

/** A slice: its data, its size, no error, and the checksum that makes all of it 0. */
function slice(data: Uint8Array): Uint8Array {
  const head = Uint8Array.of(...data, data.length >> 16, (data.length >> 8) & 255, data.length & 255, 0);
  const crc = slowCrc(head);
  return Uint8Array.of(...head, crc >>> 24, (crc >>> 16) & 255, (crc >>> 8) & 255, crc & 255);
}

const picture = (...texts: string[]) => Uint8Array.from(texts.flatMap((text) => [...slice(bytesOf(text))]));

test('the checksum is the one of POSIX cksum without its length and last turn, as published', () => {
  // CRC-32/CKSUM of "123456789" is 0x765E7680 with all bits turned at its end.
  expect(crcOf(bytesOf('123456789'), 0, 9)).toBe(~0x765e7680 >>> 0);
});

test('it is the bitwise one for every length and place', () => {
  const bytes = Uint8Array.from({ length: 61 }, (_, at) => (at * 97 + 13) & 255);
  for (let from = 0; from < 6; from += 1)
    for (let to = from; to <= bytes.length; to += 1)
      expect(crcOf(bytes, from, to)).toBe(slowCrc(bytes.subarray(from, to)));
});

test('a whole picture passes, every turned bit of it is seen', () => {
  const slices = new Ffv1Slices();
  const whole = picture('a tram', 'a depot', 'the bell');
  expect(slices.isDamaged(whole)).toBe(false);
  for (let bit = 0; bit < whole.length * 8; bit += 1) {
    const turned = Uint8Array.from(whole);
    turned[bit >> 3]! ^= 1 << (bit & 7);
    expect(slices.isDamaged(turned)).toBe(true);
  }
  for (let length = 1; length < whole.length; length += 1) {
    // Cut between slices it is a picture of fewer slices, which the decoder itself refuses.
    const cut = whole.subarray(whole.length - length);
    const isSlices = [bytesOf('the bell').length + 8, bytesOf('the bella depot').length + 16].includes(length);
    expect(slices.isDamaged(cut)).toBe(!isSlices);
  }
});

test('damage is seen from the first picture on, where the sizes of its slices are whole', () => {
  const turned = picture('a tram', 'a depot');
  turned[2]! ^= 1;
  expect(new Ffv1Slices().isDamaged(turned)).toBe(true);
});

test('of one slice damage is seen once a whole picture was', () => {
  const slices = new Ffv1Slices();
  const turned = picture('a tram');
  turned[2]! ^= 1;
  expect(slices.isDamaged(turned)).toBe(false);
  expect(slices.isDamaged(picture('a tram'))).toBe(false);
  expect(slices.isDamaged(turned)).toBe(true);
});

test('a stream without checksums is let through', () => {
  const slices = new Ffv1Slices();
  expect(slices.isDamaged(bytesOf('no footers are here at all'))).toBe(false);
  expect(slices.isDamaged(new Uint8Array())).toBe(false);
});
