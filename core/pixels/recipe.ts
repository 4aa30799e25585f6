import { z } from 'zod';
import { sampleSchema } from '../numbering/source.ts';
import { alphaKindSchema, transferSchema } from '../spec/declaration.ts';

/** How alpha leaves: straight, premultiplied on black, or none: colour laid over black. */
export const alphaOutSchema = z.enum(['straight', 'premultiplied', 'none']);
export type AlphaOut = z.infer<typeof alphaOutSchema>;

/** Everything that happens to the pixels of a frame: what comes in, what goes out. */
export const recipeSchema = z.object({
  from: z.object({ alpha: alphaKindSchema, transfer: transferSchema }),
  to: z.object({ alpha: alphaOutSchema, transfer: transferSchema, sample: sampleSchema }),
});
export type Recipe = z.infer<typeof recipeSchema>;

/** What was lost or bent in a conversion, counted over samples (colour) and pixels (alpha). */
export interface PixelCounts {
  /** Pixels looked at. */
  pixels: number;
  /** Colour samples below 0, above 1 and not numbers that an integer result could not hold. */
  low: number;
  high: number;
  nan: number;
  /** Pixels whose alpha was not full and was dropped or laid over black. */
  alphaDropped: number;
  /** Pixels with alpha 0 that hold colour all the same: they cannot be divided and keep their colour as it is. */
  glow: number;
}

export const noCounts = (): PixelCounts => ({ pixels: 0, low: 0, high: 0, nan: 0, alphaDropped: 0, glow: 0 });

/** Adds one set of counts to another, in place. */
export function addCounts(sum: PixelCounts, one: PixelCounts): PixelCounts {
  for (const key of Object.keys(sum) as (keyof PixelCounts)[]) sum[key] += one[key];
  return sum;
}
