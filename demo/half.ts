import { numberToHalf } from '@shale/core';

/** Positive floats of normal size and zeros to the nearest half; the rare others go the exact way. */
export function toHalfRow(row: Float32Array, data: Uint16Array, start: number): void {
  const bits = new Uint32Array(row.buffer, row.byteOffset, row.length);
  for (let at = 0; at < row.length; at += 1) {
    const whole = bits[at]!;
    if (whole >= 0x38800000 && whole < 0x47000000)
      data[start + at] = (whole - 0x38000000 + 0xfff + ((whole >>> 13) & 1)) >>> 13;
    else data[start + at] = whole === 0 ? 0 : numberToHalf(row[at]!);
  }
}
