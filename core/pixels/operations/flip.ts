import { z } from 'zod';
import { operation } from './operation.ts';

const words = { none: 'none', across: 'flipped left to right', down: 'flipped top to bottom' };

/** After the turn. */
export const flip = operation({
  schema: z.enum(['none', 'across', 'down']).default('none'),
  label: 'Orientation',
  rest: 'as it is',
  isAtRest: (way) => way === 'none',
  does: () => ['moves'],
  row: (way) => words[way],
  said: (way) => words[way],
});
