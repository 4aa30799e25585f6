import { filled } from './filled.ts';

/** The value of a half float from its 16 bits (IEEE 754-2008 binary16), denormals, infinities and NaN included. Exact. */
export function halfToNumber(bits: number): number {
  const sign = bits & 0x8000 ? -1 : 1;
  const exponent = (bits >> 10) & 0x1f;
  const fraction = bits & 0x3ff;
  if (exponent === 0) return sign * fraction * 2 ** -24;
  if (exponent === 31) return fraction ? NaN : sign * Infinity;
  return sign * (1 + fraction / 1024) * 2 ** (exponent - 15);
}

const view = new DataView(new ArrayBuffer(8));

/** The half float nearest to a value, ties to even (IEEE 754-2008, 4.3.1); 65,520 and above become infinity. */
export function numberToHalf(value: number): number {
  view.setFloat64(0, value);
  const sign = (view.getUint16(0) >> 8) & 0x80 ? 0x8000 : 0;
  if (Number.isNaN(value)) return 0x7e00;
  const size = Math.abs(value);
  if (size >= 65_520) return sign | 0x7c00;
  // Denormal halves are multiples of 2^-24; above 2^-14 the step doubles with every power of two.
  const exponent = size < 2 ** -14 ? -14 : ((view.getUint16(0) >> 4) & 0x7ff) - 1023;
  const steps = size / 2 ** (exponent - 10);
  const floor = Math.floor(steps);
  const rest = steps - floor;
  const rounded = rest > 0.5 || (rest === 0.5 && floor % 2 === 1) ? floor + 1 : floor;
  // Counting steps from the bottom of the power's range carries into the next power by itself.
  return sign | ((exponent + 14) * 1024 + rounded);
}

let table: Float32Array | undefined;

/** Values of all 65,536 half floats by their bits; a float holds every one exactly. */
export function halfTable(): Float32Array {
  table ??= filled(new Float32Array(65_536), halfToNumber);
  return table;
}
