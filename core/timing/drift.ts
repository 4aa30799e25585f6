import type { Rate } from './rate.ts';

/**
 * How far two readings of the same frames drift apart: frames gained in a minute by playing at `played` what belongs at
 * `meant`, exactly 60 x (played - meant) as a fraction. 30 against 30000/1001 is 1800/1001, or 1.8 frames a minute.
 */
export function driftPerMinute(played: Rate, meant: Rate): { num: number; den: number } {
  return { num: 60 * (played.num * meant.den - meant.num * played.den), den: played.den * meant.den };
}

/** `1.8 frames/min`, `2,400 frames/min`; empty where nothing drifts. */
export function printDrift(played: Rate, meant: Rate): string {
  const { num, den } = driftPerMinute(played, meant);
  if (num === 0) return '';
  const value = Math.abs(num / den);
  const digits = value < 10 ? value.toFixed(1) : Math.round(value).toLocaleString('en-GB');
  return `${digits} frames/min`;
}
