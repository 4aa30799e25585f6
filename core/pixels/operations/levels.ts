import { z } from 'zod';
import { isNull } from './common.ts';
import { operation } from './operation.ts';

const perChannel = <T extends z.ZodType>(value: T) => z.tuple([value, value, value]);

/** Levels by channel: black goes to 0, white to 1, and between them `value ** (1 / gamma)`; on values as stored. */
export const levelsSchema = z
  .object({
    black: perChannel(z.number().min(-10).max(10)).default([0, 0, 0]),
    white: perChannel(z.number().min(-10).max(100)).default([1, 1, 1]),
    gamma: perChannel(z.number().min(0.05).max(20)).default([1, 1, 1]),
    /** In stops, on light: 1 doubles. */
    exposure: z.number().min(-20).max(20).default(0),
  })
  .strict()
  .refine(({ black, white }) => black.every((value, at) => value !== white[at]), 'black and white are the same');
export type Levels = z.infer<typeof levelsSchema>;

const words = ({ black, white, gamma, exposure }: Levels): string =>
  [
    ...(exposure === 0 ? [] : [`${exposure > 0 ? '+' : ''}${exposure} stops`]),
    ...(black.some((value) => value !== 0) ? [`black ${black.join(' ')}`] : []),
    ...(white.some((value) => value !== 1) ? [`white ${white.join(' ')}`] : []),
    ...(gamma.some((value) => value !== 1) ? [`gamma ${gamma.join(' ')}`] : []),
  ].join(', ') || 'none';

export const levels = operation({
  schema: levelsSchema.nullable().default(null),
  label: 'Levels',
  rest: 'none',
  isAtRest: isNull,
  does: () => ['mixes'],
  row: (one) => words(one!),
  said: () => 'with levels',
});
