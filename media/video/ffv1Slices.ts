/** CRC-32 as FFV1 uses it: the polynomial of ISO 3309 with the highest bit first (RFC 9043, 4.9.3), four bytes a step. */
const tables = (() => {
  const made = Array.from({ length: 4 }, () => new Uint32Array(256));
  for (let byte = 0; byte < 256; byte += 1) {
    let value = byte << 24;
    for (let bit = 0; bit < 8; bit += 1) value = value < 0 ? (value << 1) ^ 0x04c11db7 : value << 1;
    made[0]![byte] = value;
  }
  for (let byte = 0; byte < 256; byte += 1) {
    for (let step = 1; step < 4; step += 1) {
      const before = made[step - 1]![byte]!;
      made[step]![byte] = (before << 8) ^ made[0]![before >>> 24]!;
    }
  }
  return made as [Uint32Array, Uint32Array, Uint32Array, Uint32Array];
})();

/** The CRC-32 of a stretch of bytes, from `to` on without the byte there; 0 over data that its own CRC follows. */
export function crcOf(bytes: Uint8Array, from: number, to: number): number {
  const [one, two, three, four] = tables;
  let crc = 0;
  let at = from;
  for (; at + 4 <= to; at += 4) {
    crc ^= (bytes[at]! << 24) | (bytes[at + 1]! << 16) | (bytes[at + 2]! << 8) | bytes[at + 3]!;
    crc = four[crc >>> 24]! ^ three[(crc >>> 16) & 255]! ^ two[(crc >>> 8) & 255]! ^ one[crc & 255]!;
  }
  for (; at < to; at += 1) crc = (crc << 8) ^ one[((crc >>> 24) ^ bytes[at]!) & 255]!;
  return crc >>> 0;
}

/** Bytes that end a slice with a checksum: its size in three, an error status in one, the CRC in four (RFC 9043, 4.9). */
const footer = 8;

/** Where the slices of a coded picture begin and end, the last first; undefined where their sizes do not come out even. */
function slicesOf(bytes: Uint8Array): [from: number, to: number][] | undefined {
  const slices: [number, number][] = [];
  let to = bytes.length;
  while (to > 0) {
    const at = to - footer;
    if (at < 0) return undefined;
    const from = at - ((bytes[at]! << 16) | (bytes[at + 1]! << 8) | bytes[at + 2]!);
    if (from < 0) return undefined;
    slices.push([from, to]);
    to = from;
  }
  return slices;
}

/**
 * Checks the checksums that FFV1's slices carry from version 3 on: the decoder puts the picture before in the place of a damaged slice,
 * and tells nobody.
 */
export class Ffv1Slices {
  /** Whether the stream is known to have them: of one that has not, sizes do not come out even. */
  private known = false;

  /** Whether a coded picture is damaged, as far as the stream can tell. */
  isDamaged(bytes: Uint8Array): boolean {
    const slices = slicesOf(bytes);
    if (!slices) return this.known;
    const whole = slices.every(([from, to]) => crcOf(bytes, from, to) === 0);
    // Once in 2^24 pictures a stream without checksums looks as if it had one slice: its checksum does not come out then.
    this.known ||= whole || slices.length > 1;
    return !whole && this.known;
  }
}
