import { numberToHalf } from '@shale/core';

const bits = new Uint32Array(1);
const float = new Float32Array(bits.buffer);

/** Positive floats of normal size to the nearest half; the rare others go the exact way. */
export function toHalfRow(row: Float32Array, data: Uint16Array, start: number): void {
  for (let at = 0; at < row.length; at += 1) {
    float[0] = row[at]!;
    const whole = bits[0]!;
    const normal = whole >= 0x38800000 && whole < 0x47000000;
    data[start + at] = normal ? (whole - 0x38000000 + 0xfff + ((whole >>> 13) & 1)) >>> 13 : numberToHalf(row[at]!);
  }
}
