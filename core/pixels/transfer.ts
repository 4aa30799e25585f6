import type { Transfer } from '../spec/declaration.ts';

/**
 * Linear light from an sRGB value (IEC 61966-2-1:1999, 5.2); 0 to 1 on both sides. Values beyond are carried on,
 * and negative ones mirrored, so that floats keep what they hold.
 */
export function srgbToLinear(value: number): number {
  const size = Math.abs(value);
  const linear = size <= 0.04045 ? size / 12.92 : ((size + 0.055) / 1.055) ** 2.4;
  return value < 0 ? -linear : linear;
}

/** An sRGB value from linear light (IEC 61966-2-1:1999, 5.2); the inverse of {@link srgbToLinear}. */
export function linearToSrgb(value: number): number {
  const size = Math.abs(value);
  const encoded = size <= 0.0031308 ? size * 12.92 : 1.055 * size ** (1 / 2.4) - 0.055;
  return value < 0 ? -encoded : encoded;
}

/** The function that takes values of one transfer to another. */
export function transferBetween(from: Transfer, to: Transfer): (value: number) => number {
  if (from === to) return (value) => value;
  return from === 'srgb' ? srgbToLinear : linearToSrgb;
}
