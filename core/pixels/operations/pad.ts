import { z } from 'zod';
import { isNull } from './common.ts';
import { operation } from './operation.ts';

export const padSchema = z
  .object({
    /** Sides become multiples of this. */
    multiple: z.int().min(2).max(4096),
    /** On the right and below, or half of it on every side. */
    where: z.enum(['end', 'around']).default('end'),
  })
  .strict();

export const pad = operation({
  schema: padSchema.nullable().default(null),
  label: 'Padding',
  rest: 'none',
  isAtRest: isNull,
  does: () => ['moves'],
  row: (one) => `to multiples of ${one!.multiple}, ${one!.where === 'end' ? 'right and below' : 'around'}`,
  said: (one) => `padded to multiples of ${one!.multiple}`,
  size({ width, height }, one) {
    const up = (value: number) => Math.ceil(value / one!.multiple) * one!.multiple;
    return { width: up(width), height: up(height) };
  },
});
