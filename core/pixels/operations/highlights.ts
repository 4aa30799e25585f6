import { z } from 'zod';
import { operation } from './operation.ts';

/** Light above 1 on the way to integers: cut at 1, or rolled off from 0.8 on towards 1. */
export const highlights = operation({
  schema: z.enum(['clip', 'roll-off']).default('clip'),
  label: 'Light above 1',
  rest: 'clipped',
  isAtRest: (how) => how === 'clip',
  does: () => ['mixes'],
  row: () => 'rolled off',
  said: () => 'highlights rolled off',
});
