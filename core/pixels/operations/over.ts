import { z } from 'zod';
import { alongside, alongWords, colourSchema, hexOf, isNull, lightSchema, mostAcross } from './common.ts';
import { operation } from './operation.ts';

export const overColourSchema = z.object({ colour: colourSchema, light: lightSchema.default('stored') }).strict();
export const overSourceSchema = z
  .object({
    ...alongside,
    /** As large as lies within the picture, as large as covers it, or its own size; then `scale`. */
    fit: z.enum(['within', 'cover', 'own']).default('cover'),
    /** In percent. */
    scale: z.number().min(0.1).max(10_000).default(100),
    /** Clockwise about its middle, in degrees. */
    rotation: z.number().min(-360).max(360).default(0),
    /** From the middle of the picture, in pixels to the right and down. */
    right: z.number().min(-mostAcross).max(mostAcross).default(0),
    down: z.number().min(-mostAcross).max(mostAcross).default(0),
    light: lightSchema.default('stored'),
  })
  .strict();
export type OverSource = z.infer<typeof overSourceSchema>;

/** What the picture is laid over, a colour or another source, and whether it is mixed as stored or as light. */
export const overSchema = z.union([overColourSchema, overSourceSchema]);
type Over = z.infer<typeof overSchema>;
export const isOverSource = (over: Over | null): over is OverSource => over !== null && 'source' in over;

function whatWords(over: Over): string {
  if (!isOverSource(over)) return hexOf(over.colour);
  const fits = { within: 'fitted within', cover: 'covering', own: 'its own size' }[over.fit];
  return [
    over.source.name,
    fits,
    ...(over.scale === 100 ? [] : [`${over.scale} %`]),
    ...(over.rotation === 0 ? [] : [`turned ${over.rotation}°`]),
    ...(over.right === 0 && over.down === 0 ? [] : [`moved ${over.right}, ${over.down}`]),
    alongWords(over),
  ].join(', ');
}

export const over = operation({
  schema: overSchema.nullable().default(null),
  label: 'Laid over',
  rest: 'nothing',
  isAtRest: isNull,
  does: () => ['mixes'],
  row: (one) => `${whatWords(one!)}${one!.light === 'linear' ? ', in linear light' : ''}`,
  said: (one) => `over ${isOverSource(one) ? one.source.name : hexOf(one!.colour)}`,
});
