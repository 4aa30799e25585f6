import { z } from 'zod';
import { operation } from './operation.ts';

const words = { none: 'none', ordered: 'ordered', diffusion: 'error diffusion', 'blue-noise': 'blue noise' };

/** How rounding to fewer codes is spread. */
export const dither = operation({
  schema: z.enum(['none', 'ordered', 'diffusion', 'blue-noise']).default('none'),
  label: 'Dither',
  rest: 'none',
  isAtRest: (how) => how === 'none',
  does: () => ['mixes'],
  row: (how) => words[how],
  said: (how) => `dithered by ${words[how]}`,
});
