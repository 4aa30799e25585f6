import { z } from 'zod';
import { operation } from './operation.ts';

const words = { display: 'cut to what is shown', data: 'all of the data window' } as const;

/**
 * What of a file with windows of its own is the picture (OpenEXR): what is shown, its windows kept where the result can hold them; no
 * more than that; or all the pixels that there are.
 */
export const window = operation({
  schema: z.enum(['kept', 'display', 'data']).default('kept'),
  label: 'Window',
  rest: 'kept where the result can hold it',
  isAtRest: (value) => value === 'kept',
  does: () => ['chooses'],
  row: (value) => (value === 'kept' ? '' : words[value]),
  said: (value) => (value === 'kept' ? '' : words[value]),
});
