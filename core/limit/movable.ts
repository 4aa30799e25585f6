import type { Facts } from '../numbering/source.ts';
import { resizeSchema, sizeAfter, untouched } from '../pixels/picture.ts';
import type { Format } from '../formats/index.ts';
import { codecRecord } from '../formats/index.ts';
import { isLosslessVideo } from '../spec/video.ts';
import type { Spec } from '../spec/schema.ts';

/** What may be given up so that a file is within a limit, each down to a floor; null leaves it as it is. */
export interface Movable {
  /** Per cent of each side. */
  size: Floor | null;
  /** Colours of a palette. */
  colours: Floor | null;
  /** Of a lossy animation, 1 to 100. */
  quality: Floor | null;
  /** Codes of 255 by which a pixel may change and stay as it was shown; a ceiling. */
  tolerance: Floor | null;
}

interface Floor {
  floor: number;
  /** How soon it is given up beside the others, above 0: one of 2 is at its floor when one of 1 is half way. */
  weight: number;
}

/** By which power of each bytes go down, as most animations have it: where a search begins, corrected by what it measures. */
const powers = { size: 1.8, colours: 0.35, quality: 0.9, tolerance: 0.06 };

/** What may be given up of a format where nothing else is said. */
export function usualMovable({ format }: { format: Format }, { lossless }: Pick<Spec['video'], 'lossless'>): Movable {
  const { controls } = codecRecord(format) ?? {};
  const isPalette = controls === 'palette';
  const isLossy = controls === 'either' && !lossless;
  return {
    size: { floor: 20, weight: 1 },
    colours: isPalette ? { floor: 32, weight: 1 } : null,
    quality: isLossy ? { floor: 40, weight: 1 } : null,
    // In grain one code more loses a third of the bytes at once: nothing between can be had.
    tolerance: null,
  };
}

/** How far each is given up, 0 to 1, where so much is given up of all. */
function shareOf({ weight }: Floor, movable: Movable, given: number): number {
  const weights = Object.values(movable).flatMap((one: Floor | null) => (one ? [one.weight] : []));
  return Math.min(1, (given * weight) / Math.min(...weights));
}

/** From a value to its floor by even proportions. */
const between = (from: number, floor: number, share: number): number =>
  floor >= from ? from : from * (floor / from) ** share;

/** A spec of which so much is given up. @param given 0 nothing to 1 all @param facts of the source */
export function givenUp(
  spec: Spec,
  facts: Pick<Facts, 'width' | 'height'>,
  aspect: { num: number; den: number } | undefined,
  movable: Movable,
  given: number,
): Spec {
  const { size, colours, quality, tolerance } = movable;
  const video = { ...spec.video };
  if (colours) video.colours = Math.round(between(video.colours, colours.floor, shareOf(colours, movable, given)));
  if (quality && !isLosslessVideo(spec.write.format, video))
    video.quality = Math.round(between(video.quality, quality.floor, shareOf(quality, movable, given)));
  if (tolerance && tolerance.floor > video.tolerance)
    video.tolerance = Math.round(
      video.tolerance + (tolerance.floor - video.tolerance) * shareOf(tolerance, movable, given),
    );
  const isPadded = spec.picture.pad !== untouched.pad;
  if (!size || given === 0 || isPadded) return { ...spec, video };
  const before = sizeAfter(facts, { ...spec.picture, over: untouched.over }, aspect);
  const scale = between(100, size.floor, shareOf(size, movable, given)) / 100;
  const side = (pixels: number) => Math.max(1, Math.round(pixels * scale));
  const to = { by: 'size' as const, width: side(before.width), height: side(before.height) };
  const resize = spec.picture.resize ? { ...spec.picture.resize, to } : resizeSchema.parse({ to });
  return { ...spec, video, picture: { ...spec.picture, resize } };
}

/** The natural logarithm by which bytes go down where all is given up, as a model has it before anything is measured. */
export function modelledLoss({ video, picture }: Spec, { size, colours, quality, tolerance }: Movable): number {
  const lost = (from: number, to: number, power: number) => (to < from ? Math.log(from / to) * power : 0);
  return (
    (size && picture.pad === untouched.pad ? lost(100, size.floor, powers.size) : 0) +
    (colours ? lost(video.colours, colours.floor, powers.colours) : 0) +
    (quality ? lost(video.quality, quality.floor, powers.quality) : 0) +
    (tolerance ? Math.max(0, tolerance.floor - video.tolerance) * powers.tolerance : 0)
  );
}

/** What was given up, in words: `216 x 122, 97 colours, changes up to 5 left out`. */
export function givenWords(spec: Spec, first: Spec): string {
  const { video, picture } = spec;
  const to = picture.resize?.to;
  return [
    ...(to?.by === 'size' && picture.resize !== first.picture.resize ? [`${to.width} x ${to.height}`] : []),
    ...(video.colours === first.video.colours ? [] : [`${video.colours} colours`]),
    ...(video.quality === first.video.quality ? [] : [`quality ${video.quality}`]),
    ...(video.tolerance === first.video.tolerance ? [] : [`changes up to ${video.tolerance} left out`]),
  ].join(', ');
}
