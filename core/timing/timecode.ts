import type { Rate } from './rate.ts';

/** Whole frames that a timecode second counts: 30 for 30000/1001 (SMPTE ST 12-1, 5.2). */
export const nominalRate = (rate: Rate): number => Math.round(rate.num / rate.den);

/** Drop-frame counting is defined for 30000/1001 and 60000/1001 only (SMPTE ST 12-1, 5.2.2). */
export const mayDropFrames = (rate: Rate): boolean => rate.den === 1001 && (rate.num === 30_000 || rate.num === 60_000);

const two = (value: number) => value.toString().padStart(2, '0');

/**
 * Timecode of a frame counted from 00:00:00:00, wrapping at 24 hours; `;` before the frames tells drop-frame.
 * Drop-frame skips the labels 0 and 1 (0 to 3 at 60) at every minute but each tenth (SMPTE ST 12-1, 5.2.2).
 * @param frame a whole number, 0 or more
 * @example printTimecode(1800, {num: 30000, den: 1001}, true) // '00:01:00;02'
 */
export function printTimecode(frame: number, rate: Rate, drop = false): string {
  const nominal = nominalRate(rate);
  const dropped = drop && mayDropFrames(rate) ? nominal / 15 : 0;
  const perMinute = nominal * 60 - dropped;
  const perTenMinutes = perMinute * 10 + dropped;
  const inDay = frame % (perTenMinutes * 144);
  let label = inDay;
  if (dropped > 0) {
    const tens = Math.floor(inDay / perTenMinutes);
    const rest = inDay % perTenMinutes;
    const minutes = rest < dropped ? 0 : Math.floor((rest - dropped) / perMinute);
    label = inDay + tens * 9 * dropped + minutes * dropped;
  }
  const seconds = Math.floor(label / nominal);
  const frames = two(label % nominal);
  const clock = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60].map(two).join(':');
  return `${clock}${dropped > 0 ? ';' : ':'}${frames}`;
}
