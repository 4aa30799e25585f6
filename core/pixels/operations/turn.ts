import { z } from 'zod';
import { operation } from './operation.ts';

const isSideways = (turn: number): boolean => turn === 90 || turn === 270;

/** Quarter turns clockwise, in degrees. */
export const turn = operation({
  schema: z.union([z.literal(0), z.literal(90), z.literal(180), z.literal(270)]).default(0),
  label: 'Orientation',
  rest: 'as it is',
  isAtRest: (degrees) => degrees === 0,
  does: () => ['moves'],
  row: (degrees) => `turned ${degrees}°`,
  said: (degrees) => `turned ${degrees}°`,
  size: ({ width, height }, degrees) => (isSideways(degrees) ? { width: height, height: width } : { width, height }),
  aspect: (aspect, degrees) => (isSideways(degrees) ? { num: aspect.den, den: aspect.num } : aspect),
});
