import { z } from 'zod';
import { colourSchema, hexOf, isNull } from './common.ts';
import { operation } from './operation.ts';

/** Alpha from the distance of a pixel's colour to the screen's, in the plane of colour differences. */
export const keySchema = z
  .object({
    /** The screen's colour in sRGB values. */
    colour: colourSchema,
    /** Distance up to which a pixel is clear, and how much further until it is opaque. */
    tolerance: z.number().min(0).max(1).default(0.15),
    softness: z.number().min(0).max(1).default(0.15),
    /** How much of the screen's cast is taken from what is kept, 0 to 1. */
    spill: z.number().min(0).max(1).default(1),
  })
  .strict();
export type Key = z.infer<typeof keySchema>;

export const key = operation({
  schema: keySchema.nullable().default(null),
  label: 'Key',
  rest: 'none',
  isAtRest: isNull,
  does: () => ['mixes'],
  row: (one) => `${hexOf(one!.colour)}, tolerance ${one!.tolerance}, softness ${one!.softness}, spill ${one!.spill}`,
  said: (one) => `keyed on ${hexOf(one!.colour)}`,
});
