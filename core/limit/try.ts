import { z } from 'zod';
import { rateSchema } from '../timing/rate.ts';

/** One whole encode of a search within a limit. */
export const limitTrySchema = z.object({
  /** How much was given up of all that may be: 0 nothing to 1 all. */
  given: z.number().min(0).max(1),
  bytes: z.int().min(0),
  /** What was given up: `216 x 122, 97 colours`; nothing where nothing was. */
  words: z.string(),
});
export type LimitTry = z.infer<typeof limitTrySchema>;

/** A try that is kept to be looked at. */
export const shownTrySchema = limitTrySchema.extend({
  width: z.int(),
  height: z.int(),
  /** Pictures, and how many a second. */
  frames: z.int(),
  rate: rateSchema,
  /** Mean SSIM against what is wanted, at its size and time, 1 where nothing differs. */
  ssim: z.number(),
  /** The most pixels in a picture that show as a halo on a dark and on a light ground; null where what is half-clear stays so. */
  halo: z.object({ dark: z.int(), light: z.int() }).nullable(),
  /** Bytes that each stored picture takes; null where the format does not tell. */
  frameBytes: z.array(z.int()).nullable(),
});
export type ShownTry = z.infer<typeof shownTrySchema>;
