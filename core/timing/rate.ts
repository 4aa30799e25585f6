import { z } from 'zod';
import { ShaleError } from '../errors.ts';

/** Frames per second as an exact fraction in lowest terms: both whole, above 0 and at most 10,000,000. */
export interface Rate {
  num: number;
  den: number;
}

export const rateSchema = z.object({
  num: z.int().min(1).max(10_000_000),
  den: z.int().min(1).max(10_000_000),
});

/** The greatest common divisor of two whole numbers, the second not below 0. */
export const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b));

/** The rate in lowest terms. */
export function makeRate(num: number, den: number): Rate {
  const divisor = gcd(num, den);
  return { num: num / divisor, den: den / divisor };
}

/** Below 0 where the first is slower, 0 where they are the same, above 0 where it is quicker. */
export const compareRates = (a: Rate, b: Rate): number => a.num * b.den - b.num * a.den;

/** The rates of the trade (SMPTE ST 12-1, ITU-R BT.709, BT.2020; 12, 15 and 8 for drawings). */
export const standardRates: readonly Rate[] = [
  ...[8, 12, 15].map((num) => ({ num, den: 1 })),
  { num: 24_000, den: 1001 },
  ...[24, 25].map((num) => ({ num, den: 1 })),
  { num: 30_000, den: 1001 },
  ...[30, 48, 50].map((num) => ({ num, den: 1 })),
  { num: 60_000, den: 1001 },
  ...[60, 100, 120].map((num) => ({ num, den: 1 })),
];

/** Decimals by which the trade calls the 1000/1001 rates; read as the exact fraction, never as the decimal. */
const spoken = new Map<string, Rate>(
  [24, 30, 48, 60, 120].flatMap((nominal) => {
    const rate = makeRate(nominal * 1000, 1001);
    const value = (nominal * 1000) / 1001;
    return [2, 3, 4].map((places) => [value.toFixed(places), rate] as const);
  }),
);
spoken.set('23.98', makeRate(24_000, 1001));

/**
 * Reads `24`, `24000/1001`, `23.976`, `12.5`, `24 fps`.
 * @throws ShaleError `bad-rate` for 0, negatives, words and rates above 1,000
 */
export function parseRate(text: string): Rate {
  const refuse = () =>
    new ShaleError({
      code: 'bad-rate',
      fact: `"${text.trim()}" is not a frame rate.`,
      wayOut: 'Write a number above 0 and up to 1000, such as 24, 23.976 or 24000/1001.',
      subject: 'rate',
    });
  const plain = text.trim().replace(/\s*fps$/i, '');
  const known = spoken.get(plain);
  if (known) return known;
  const match = /^(\d{1,7})(?:\.(\d{1,3}))?(?:\s*\/\s*(\d{1,7}))?$/.exec(plain);
  if (!match || (match[2] && match[3])) throw refuse();
  const scale = 10 ** (match[2]?.length ?? 0);
  const num = Number(match[1]) * scale + Number(match[2] ?? 0);
  const den = Number(match[3] ?? scale);
  if (num < 1 || den < 1 || num / den > 1000) throw refuse();
  const rate = makeRate(num, den);
  if (!rateSchema.safeParse(rate).success) throw refuse();
  return rate;
}

/** `24`, `23.976`: a rate as people say it; {@link rateFraction} has the exact form. */
export function rateNumber(rate: Rate): string {
  const value = rate.num / rate.den;
  return String(rate.den === 1 ? value : Number(value.toFixed(3)));
}

/** `24 fps`, `23.976 fps`. */
export const printRate = (rate: Rate): string => `${rateNumber(rate)} fps`;

/** `24000/1001` or `24`. */
export const rateFraction = (rate: Rate): string => (rate.den === 1 ? `${rate.num}` : `${rate.num}/${rate.den}`);

/** When a frame starts, in seconds from frame 0: frame x den / num. */
export const frameSeconds = (frame: number, rate: Rate): number => (frame * rate.den) / rate.num;

/** `4.00 s`, `1 min 23.50 s`. */
export function printSeconds(seconds: number): string {
  const hundredths = Math.round(seconds * 100);
  const minutes = Math.floor(hundredths / 6000);
  const rest = ((hundredths - minutes * 6000) / 100).toFixed(2);
  return minutes > 0 ? `${minutes} min ${rest} s` : `${rest} s`;
}
