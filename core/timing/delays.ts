import { makeRate, printRate, rateNumber, standardRates, type Rate } from './rate.ts';

/**
 * How long each picture of an animation stands, where its format counts whole parts of a second: every picture begins at the part that
 * is nearest to its exact time, so that the rate is kept however long it goes on.
 * @param perSecond parts of a second that are counted: 100 for GIF (89a, 23.c.vii), 1000 for WebP (RFC 9649, 2.7.1.1)
 */
export function delaysOf(rate: Rate, count: number, perSecond: number): number[] {
  const startOf = (picture: number) => Math.round((picture * perSecond * rate.den) / rate.num);
  return Array.from({ length: count }, (_, at) => startOf(at + 1) - startOf(at));
}

/** How far a picture's beginning is from its exact time at most, in seconds; 0 where the rate is kept exactly. */
export function delayError(rate: Rate, perSecond: number): number {
  // Beginnings come again after so many pictures.
  const period = makeRate(perSecond * rate.den, rate.num).den;
  let most = 0;
  for (let at = 1; at <= Math.min(period, 10_000); at += 1) {
    const exact = (at * perSecond * rate.den) / rate.num;
    most = Math.max(most, Math.abs(exact - Math.round(exact)));
  }
  return most / perSecond;
}

/**
 * The rate of an animation by how long its pictures stand: where all stand as long, or where a rate of the trade gives just these
 * delays; undefined where no rate does. Delays of some players' own are taken as they are written.
 */
export function rateOfDelays(delays: readonly number[], perSecond: number): Rate | undefined {
  const [first = 0] = delays;
  if (first > 0 && delays.every((delay) => delay === first)) return makeRate(perSecond, first);
  if (first === 0) return undefined;
  // A few pictures are alike at 24 and at 23.976 fps: then it is the whole one.
  return [...standardRates]
    .sort((a, b) => a.den - b.den)
    .find((rate) => delaysOf(rate, delays.length, perSecond).every((delay, at) => delay === delays[at]));
}

/** The greatest rate up to a limit at which every n-th picture of a rate is shown. @param most frames a second */
export const evenRate = (rate: Rate, most: number): Rate =>
  makeRate(rate.num, rate.den * Math.ceil(rate.num / (rate.den * most)));

/** What becomes of a rate, in words: `24 fps become 4, 4, 5, 4 ... hundredths of a second, each picture within 5 ms`; undefined where it is kept. */
export function delayWords(rate: Rate, perSecond: number): string | undefined {
  const error = delayError(rate, perSecond);
  if (error < 1e-9) return undefined;
  const parts = perSecond === 100 ? 'hundredths' : 'thousandths';
  const within = (error * 1000).toFixed(1).replace(/\.0$/, '');
  return `${printRate(rate)} becomes delays of ${delaysOf(rate, 6, perSecond).join(', ')} ... ${parts} of a second: ${rateNumber(rate)} on average, each picture within ${within} ms`;
}
