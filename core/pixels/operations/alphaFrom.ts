import { z } from 'zod';
import { alongside, alongWords, isNull } from './common.ts';
import { operation } from './operation.ts';

/** Alpha that comes from another source. */
export const alphaFromSchema = z
  .object({
    ...alongside,
    /** Its alpha, or its luma (ITU-R BT.709) as stored. */
    use: z.enum(['alpha', 'luma']).default('luma'),
    /** Black becomes white. */
    inverted: z.boolean().default(false),
    /** Whether the colour is multiplied by that alpha already. */
    premultiplied: z.boolean().default(false),
  })
  .strict();
export type AlphaFrom = z.infer<typeof alphaFromSchema>;

/** Takes the place of an alpha that there is. */
export const alphaFrom = operation({
  schema: alphaFromSchema.nullable().default(null),
  label: 'Alpha',
  rest: 'its own',
  isAtRest: isNull,
  does: () => ['chooses'],
  row: (from) =>
    `${from!.use} of ${from!.source.name}${from!.inverted ? ', inverted' : ''}, ${alongWords(from!)}${from!.premultiplied ? ', colour premultiplied by it' : ''}`,
  said: (from) => `alpha from ${from!.source.name}`,
});
