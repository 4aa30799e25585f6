import { z } from 'zod';
import { isNull } from './common.ts';
import { operation } from './operation.ts';

/** A layer of a file that has several; null takes the main picture. */
export const layer = operation({
  schema: z.string().min(1).max(255).nullable().default(null),
  label: 'Layer',
  rest: 'the main picture',
  isAtRest: isNull,
  does: () => ['chooses'],
  row: (name) => name!,
  said: (name) => `layer ${name}`,
});
