import { codecRecord, isVideoFormat } from '../formats/index.ts';
import type { Floor } from '../formats/floor.ts';
import { resizeSchema, sizeAfter, untouched, type Resize } from '../pixels/picture.ts';
import type { Plan } from '../plan/plan.ts';
import { sizeOfPlan } from '../plan/pictureProblems.ts';
import { isAnimationFormat, isByQuality } from '../spec/video.ts';
import type { Spec } from '../spec/schema.ts';
import { makeRate, printRate, type Rate } from '../timing/rate.ts';
import { plural } from '../words.ts';

/** What may be given up so that a file is within its limit. */
const movableNames = ['size', 'colours', 'dither', 'quality', 'rate', 'length'] as const;
type Movable = (typeof movableNames)[number];

/** By which power of each bytes go down, as most animations have it: where a search begins, corrected by what it measures. */
const powers: Record<Movable, number> = {
  size: 1.8,
  colours: 0.35,
  dither: 0.04,
  quality: 0.9,
  rate: 0.8,
  length: 1,
};

/** From what to what each that may move goes: those that a format does not know, or that cannot go lower, are not among them. */
type Ways = Partial<Record<Movable, { from: number; floor: Floor }>>;

/** A plan's limit of bytes; null where it has none. */
export const limitOf = ({ write, video }: Pick<Spec, 'write' | 'video'>): number | null =>
  isAnimationFormat(write.format) ? video.limit : null;

/** Whether what is written is searched for within a limit, or has as much given up as was chosen. */
export const fitsLimit = ({ write, video }: Pick<Spec, 'write' | 'video'>): boolean =>
  isAnimationFormat(write.format) && (video.limit !== null || video.given !== null);

function waysOf({ spec, rate }: Pick<Plan, 'spec' | 'rate'>): Ways {
  const { write, video, picture } = spec;
  const { controls } = codecRecord(write.format) ?? {};
  const isPalette = controls === 'palette';
  const isLossy = isVideoFormat(write.format) && isByQuality(write.format, video);
  const isPadded = picture.pad !== untouched.pad;
  const all: Record<Movable, [from: number, floor: Floor | null]> = {
    size: [100, isPadded ? null : video.giveSize],
    colours: [video.colours, isPalette ? video.giveColours : null],
    dither: [video.ditherAmount, isPalette && video.dither !== 'none' ? video.giveDither : null],
    quality: [video.quality, isLossy ? video.giveQuality : null],
    rate: [rate ? rate.num / rate.den : 0, rate ? video.giveRate : null],
    length: [100, video.giveLength],
  };
  const ways: Ways = {};
  for (const name of movableNames) {
    const [from, floor] = all[name];
    if (floor && floor.floor < from) ways[name] = { from, floor };
  }
  return ways;
}

/** From a value to its floor by even proportions; a floor of 0 by even steps. */
const between = (from: number, floor: number, share: number): number =>
  floor === 0 ? from * (1 - share) : from * (floor / from) ** share;

/** A plan of which so much is given up, and which of its results stay. */
export interface Fitted {
  plan: Plan;
  /** By their place among the results of the whole plan. */
  results: number[];
}

/** What is left of each that may move where so much is given up of all. */
function valuesAt(ways: Ways, given: number): Partial<Record<Movable, number>> {
  const entries = Object.entries(ways) as [Movable, NonNullable<Ways[Movable]>][];
  const least = Math.min(...entries.map(([, { floor }]) => floor.weight));
  return Object.fromEntries(
    entries.map(([name, { from, floor }]) => [
      name,
      between(from, floor.floor, Math.min(1, (given * floor.weight) / least)),
    ]),
  );
}

/** A lower rate in whole frames a second, and which of so many pictures show at it: evenly, the first always. */
function thinned(rate: Rate, count: number, to: number | undefined): { rate: Rate; results: number[] } {
  const every = Array.from({ length: count }, (_, at) => at);
  const lower = Math.max(1, Math.round(to ?? Infinity));
  if (lower * rate.den >= rate.num) return { rate, results: every };
  // Picture k shows at k / lower seconds: what stands there at the whole rate.
  const left = Math.ceil((count * rate.den * lower) / rate.num);
  const results = every.slice(0, left).map((k) => Math.floor((k * rate.num) / (rate.den * lower)));
  return { rate: makeRate(lower, 1), results };
}

/** A plan's animation with so much given up. @param given 0 nothing to 1 all that may be */
export function planGiven(plan: Plan, given: number): Fitted {
  const { spec } = plan;
  const { size, colours, dither, quality, rate, length } = valuesAt(waysOf(plan), given);
  const video = { ...spec.video };
  if (colours !== undefined) video.colours = Math.round(colours);
  if (dither !== undefined) video.ditherAmount = Math.round(dither);
  if (quality !== undefined) video.quality = Math.round(quality);
  const count = Math.max(1, Math.round((plan.frames * (length ?? 100)) / 100));
  const inTime = plan.rate ? thinned(plan.rate, count, rate) : { rate: null, results: [] };
  const resize = size === undefined || given === 0 ? undefined : resizeTo(plan, size / 100);
  const sized = <P extends { picture: Spec['picture'] }>(one: P): P =>
    resize ? { ...one, picture: { ...one.picture, resize } } : one;
  return {
    plan: {
      ...plan,
      spec: { ...sized(spec), video },
      recipe: plan.recipe && sized(plan.recipe),
      shots: plan.shots.map((shot) => ({ ...shot, recipe: shot.recipe && sized(shot.recipe) })),
      rate: inTime.rate,
      frames: inTime.results.length,
    },
    results: inTime.results,
  };
}

/** The resize to a share of the sides that are wanted, by the filter that is. */
function resizeTo({ source, spec, declaration }: Plan, share: number): Resize | undefined {
  if (!source.facts) return undefined;
  const aspect = declaration.pixelAspect.value ?? undefined;
  const before = sizeAfter(source.facts, { ...spec.picture, over: untouched.over }, aspect);
  const { least = { width: 1, height: 1 } } = codecRecord(spec.write.format)!;
  const side = (of: 'width' | 'height') => Math.max(Math.min(least[of], before[of]), Math.round(before[of] * share));
  const to = { by: 'size' as const, width: side('width'), height: side('height') };
  return spec.picture.resize ? { ...spec.picture.resize, to } : resizeSchema.parse({ to });
}

/** What is the same for two amounts gives the same file: sizes, colours and rates come in steps. */
export function stepOf(plan: Plan, given: number): string {
  const { plan: fitted, results } = planGiven(plan, given);
  const { picture, video } = fitted.spec;
  return JSON.stringify([picture.resize?.to, video, fitted.rate, results.length]);
}

/** The natural logarithm by which bytes go down where all is given up, as a model has it before anything is measured. */
export function modelledLoss(plan: Pick<Plan, 'spec' | 'rate'>): number {
  return Object.entries(waysOf(plan)).reduce(
    (sum, [name, { from, floor }]) => sum + Math.log(from / Math.max(1, floor.floor)) * powers[name as Movable],
    0,
  );
}

/** What was given up, in words: `216 x 122, 97 colours`; nothing where nothing was. */
export function givenWords(plan: Plan, given: number): string {
  const { plan: fitted } = planGiven(plan, given);
  const [was, is] = [plan.spec.video, fitted.spec.video];
  const [before, size] = [sizeOfPlan(plan), sizeOfPlan(fitted)];
  return [
    ...(size && (size.width !== before!.width || size.height !== before!.height)
      ? [`${size.width} x ${size.height}`]
      : []),
    ...(is.colours === was.colours ? [] : [`${is.colours} colours`]),
    ...(is.ditherAmount === was.ditherAmount ? [] : [`dither ${is.ditherAmount} %`]),
    ...(is.quality === was.quality ? [] : [`quality ${is.quality}`]),
    ...(fitted.rate && fitted.rate !== plan.rate ? [printRate(fitted.rate)] : []),
    ...(fitted.frames === plan.frames ? [] : [plural(fitted.frames, 'picture')]),
  ].join(', ');
}
