import { makeRate, standardRates, type Rate } from './rate.ts';

/** So many pictures in a row, each shown for so many ticks of the clip's time base. */
export type TickRun = [count: number, ticks: number];

/** How the pictures of a clip lie in time. */
export interface ClipTimes {
  /** The rate where it is constant, else pictures per second over the whole. */
  rate: Rate | undefined;
  variable: boolean;
  /** Where the rate varies: how long each picture is shown. */
  runs?: TickRun[];
  /** Where it varies by a few holes in an even row only: after which picture, and how many pictures would fill it. */
  holes?: { after: number; lost: number }[];
}

/** More holes than this are no damage but the way in which a clip was made. */
const fewHoles = 4;

/** Holes in a row of pictures that is even but for them, and for how many ticks the others stay on. */
function holesIn(runs: readonly TickRun[]): { holes: { after: number; lost: number }[]; usual: number } | undefined {
  const usual = runs.reduce((most, run) => (run[0] > most[0] ? run : most), runs[0]!)[1];
  const holes: { after: number; lost: number }[] = [];
  let at = 0;
  for (const [count, ticks] of runs) {
    at += count;
    if (Math.abs(ticks - usual) <= 1) continue;
    const times = ticks / usual;
    if (times < 1.9 || Math.abs(times - Math.round(times)) > 0.05 * times) return undefined;
    if (holes.length + count > fewHoles) return undefined;
    for (let after = at - count; after < at; after += 1) holes.push({ after, lost: Math.round(times) - 1 });
  }
  return holes.length > 0 ? { holes, usual } : undefined;
}

/** The most runs that are kept; times that change more often than that are told as variable without them. */
const mostRuns = 50_000;

/** Whether the n-th picture begins at n / rate seconds, each to within one tick: containers round times to their base. */
function keeps(times: ArrayLike<number>, base: Rate, rate: Rate): boolean {
  const start = times[0]!;
  for (let at = 1; at < times.length; at += 1) {
    const meant = (at * rate.den * base.den) / (rate.num * base.num);
    if (Math.abs(times[at]! - start - meant) > 1) return false;
  }
  return true;
}

/** The standard rate nearest to a fraction, where it is within a thousandth; else the fraction in lowest terms. */
function named(num: number, den: number): Rate | undefined {
  if (!(num > 0) || !(den > 0)) return undefined;
  const near = standardRates.find((rate) => Math.abs((rate.num * den) / (rate.den * num) - 1) < 0.0004);
  if (near) return near;
  const exact = makeRate(Math.round(num), Math.round(den));
  if (exact.num <= 10_000_000 && exact.den <= 10_000_000) return exact;
  return makeRate(Math.round((num / den) * 1000), 1000);
}

/**
 * Tells a constant rate from a variable one by when each picture begins.
 * @param times when each picture begins, in display order, ticks of `base`, ascending whole numbers
 * @param last how long the last picture is shown, in ticks; 0 where nothing says so
 * @param base seconds of a tick as a fraction
 * @param said the rate that the container speaks of
 */
export function clipTimes(times: ArrayLike<number>, last: number, base: Rate, said?: Rate): ClipTimes {
  const count = times.length;
  if (count < 2) return { rate: said, variable: false };
  const span = times[count - 1]! - times[0]!;
  const measured = named((count - 1) * base.den, span * base.num);
  const exact = makeRate((count - 1) * base.den, Math.max(1, span) * base.num);
  // A container of coarse ticks speaks of a fraction beside the standard rate that its times fit as well.
  const standard = said && named(said.num, said.den);
  for (const rate of [standard, said, measured, exact])
    if (rate && rate.num <= 10_000_000 && rate.den <= 10_000_000 && keeps(times, base, rate))
      return { rate, variable: false };
  const runs: TickRun[] = [];
  for (let at = 0; at < count && runs.length <= mostRuns; at += 1) {
    const previous = runs[runs.length - 1];
    const ticks = at + 1 < count ? times[at + 1]! - times[at]! : last || (previous?.[1] ?? 1);
    if (previous?.[1] === ticks) previous[0] += 1;
    else runs.push([1, ticks]);
  }
  const holed = holesIn(runs);
  if (holed) return { rate: named(base.den, holed.usual * base.num), variable: true, runs, holes: holed.holes };
  const whole = runs.reduce((sum, [n, ticks]) => sum + n * ticks, 0);
  const rate = named(count * base.den, whole * base.num);
  return runs.length > mostRuns ? { rate, variable: true } : { rate, variable: true, runs };
}

/** When each picture begins, in ticks from the first. */
export function beginnings(runs: readonly TickRun[]): Float64Array {
  const times = new Float64Array(runs.reduce((sum, [count]) => sum + count, 0));
  let at = 0;
  let time = 0;
  for (const [count, ticks] of runs) for (let k = 0; k < count; k += 1, time += ticks) times[at++] = time;
  return times;
}

/**
 * Which picture stands on the screen in the middle of each frame of a constant rate: what a play-out at that rate shows.
 * The middle keeps times that are rounded a little early or late from doubling one picture and dropping the next.
 * @param runs how long each picture is shown, ticks of `base`
 * @returns for each frame of the result the picture's place, from 0
 */
export function atConstantRate(runs: readonly TickRun[], base: Rate, rate: Rate): number[] {
  const times = beginnings(runs);
  const whole = runs.reduce((sum, [count, ticks]) => sum + count * ticks, 0);
  // Ticks of one frame of the result, as a fraction.
  const [num, den] = [rate.den * base.den, rate.num * base.num];
  const frames = Math.max(1, Math.round((whole * den) / num));
  const places: number[] = [];
  let at = 0;
  for (let frame = 0; frame < frames; frame += 1) {
    while (at + 1 < times.length && times[at + 1]! * 2 * den <= (2 * frame + 1) * num) at += 1;
    places.push(at);
  }
  return places;
}
