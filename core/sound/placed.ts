import type { Rate } from '../timing/rate.ts';

/** An exact fraction, below 0 too. */
export interface Fraction {
  num: number;
  den: number;
}

/**
 * Where a part of a sound begins, in whole samples of the rate at which it is written; below 0 so many of silence go before it.
 * @param from where the part begins after the first picture, in seconds
 * @param begins seconds by which the sound's first sample comes after the first picture
 */
export const soundShift = (from: Fraction, begins: number, rate: number): number =>
  Math.round((from.num / from.den - begins) * rate);

/** Samples of so long a part. */
export const soundLength = ({ num, den }: Rate, rate: number): number => Math.round((num * rate) / den);
