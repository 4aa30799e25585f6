import type { SampleFormat } from '../numbering/source.ts';
import type { DeclaredTransfer } from './colourNames.ts';
import { isFloat } from './image.ts';
import { transferBetween } from './transfer.ts';

/** How a value lies to what a result can hold: 0 within, 1 below, 2 above, 3 not a number, 4 infinite where floats hold that. */
export type OutsideKind = 0 | 1 | 2 | 3 | 4;

/** The nearest value to which halves round to a number and not to infinity (IEEE 754-2008, 4.3.1). */
const mostHalf = 65_519.999_999_999_99;

/**
 * The values, before the curve, that a sample format holds after it: for integers those that become 0 to 1, for floats all
 * that do not overflow.
 */
export function heldBetween(
  from: DeclaredTransfer,
  to: DeclaredTransfer,
  sample: SampleFormat,
): readonly [number, number] {
  if (sample === 'f32') return [-Number.MAX_VALUE, Number.MAX_VALUE];
  const back = transferBetween(to, from);
  if (isFloat(sample))
    return [Math.max(back(-mostHalf), -Number.MAX_VALUE), Math.min(back(mostHalf), Number.MAX_VALUE)];
  // Powers leave the last bits of 0 and 1 open.
  const end = (value: number) => (Math.abs(value - Math.round(value)) < 1e-9 ? Math.round(value) : value);
  return [end(back(0)), end(back(1))];
}

/** How a value lies to the ends of what is held. */
export function outsideKind(value: number, [least, most]: readonly [number, number]): OutsideKind {
  if (value >= least && value <= most) return 0;
  if (Number.isNaN(value)) return 3;
  // Floats keep infinity as it is; integers cut it like any other value.
  if (Math.abs(value) === Infinity && most > 1000) return 4;
  return value > most ? 2 : 1;
}
