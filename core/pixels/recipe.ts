import { z } from 'zod';
import { sampleSchema } from '../numbering/source.ts';
import {
  alphaKindSchema,
  declaredTransferSchema,
  matteSchema,
  pixelAspectSchema,
  primariesSchema,
  transferSchema,
} from './colourNames.ts';
import { pictureSchema } from './picture.ts';

/** How alpha leaves: straight, premultiplied on black, none (colour laid over black), or alone as a grey picture. */
export const alphaOutSchema = z.enum(['straight', 'premultiplied', 'none', 'matte']);
export type AlphaOut = z.infer<typeof alphaOutSchema>;

/** Whether a result has an alpha of its own, however it is meant. */
export const writesAlpha = (alpha: AlphaOut): boolean => alpha === 'straight' || alpha === 'premultiplied';

export const alphaOutWords: Record<AlphaOut, string> = {
  straight: 'straight alpha',
  premultiplied: 'premultiplied alpha',
  none: 'no alpha',
  matte: 'alpha alone as grey',
};

const takenSchema = z.object({
  alpha: alphaKindSchema,
  transfer: declaredTransferSchema,
  primaries: primariesSchema,
  pixelAspect: pixelAspectSchema,
  /** The colour that it lies on, as stored, where alpha is `on-colour`. */
  matte: matteSchema.nullable().default(null),
});

/** Everything that happens to the pixels of a frame: what comes in, what is done to it, what goes out. */
export const recipeSchema = z.object({
  from: takenSchema,
  /** What the picture is laid over, where that is another source. */
  under: takenSchema.nullable().default(null),
  picture: pictureSchema,
  to: z.object({
    alpha: alphaOutSchema,
    transfer: transferSchema,
    primaries: primariesSchema,
    sample: sampleSchema,
    /** The colour that a premultiplied result lies on, in its own values; null for black. */
    matte: matteSchema.nullable().default(null),
  }),
});
export type Recipe = z.infer<typeof recipeSchema>;

/** A number each for red, green and blue; grey counts as the first. */
export type ByChannel = [number, number, number];

/** What was lost or bent in a conversion, counted over samples (colour) and pixels (alpha). */
export interface PixelCounts {
  /** Pixels looked at. */
  pixels: number;
  /** Colour samples below and above what the result could hold, by channel. */
  low: ByChannel;
  high: ByChannel;
  /** Colour samples that are not numbers, and infinite ones that a float result keeps. */
  nan: number;
  infinite: number;
  /** Colour samples that were above 1 and were rolled off. */
  rolled: number;
  /** Pixels whose alpha was not full and was dropped or laid over black. */
  alphaDropped: number;
  /** Pixels with alpha 0 that hold colour all the same: they cannot be divided and keep their colour as it is. */
  glow: number;
}

export const noCounts = (): PixelCounts => ({
  pixels: 0,
  low: [0, 0, 0],
  high: [0, 0, 0],
  nan: 0,
  infinite: 0,
  rolled: 0,
  alphaDropped: 0,
  glow: 0,
});

/** Adds one set of counts to another, in place. */
export function addCounts(sum: PixelCounts, one: PixelCounts): PixelCounts {
  for (const key of ['pixels', 'nan', 'infinite', 'rolled', 'alphaDropped', 'glow'] as const) sum[key] += one[key];
  for (const key of ['low', 'high'] as const) one[key].forEach((count, channel) => (sum[key][channel]! += count));
  return sum;
}

export const ofAll = (counts: ByChannel): number => counts[0] + counts[1] + counts[2];

/** Counts one sample by its {@link outsideKind}; 0 counts nothing. */
export function note(counts: PixelCounts, kind: number, channel: number): void {
  if (kind === 2) counts.high[channel]! += 1;
  else if (kind === 1) counts.low[channel]! += 1;
  else if (kind === 3) counts.nan += 1;
  else if (kind === 4) counts.infinite += 1;
}
