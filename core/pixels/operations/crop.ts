import { z } from 'zod';
import { isNull, sideSchema } from './common.ts';
import { operation } from './operation.ts';

/** A part of a picture in pixels from its upper left corner. */
export const boxSchema = z
  .object({ left: z.int().min(0), top: z.int().min(0), width: sideSchema, height: sideSchema })
  .strict();
export type Box = z.infer<typeof boxSchema>;

/** Of the turned picture. */
export const crop = operation({
  schema: boxSchema.nullable().default(null),
  label: 'Crop',
  rest: 'none',
  isAtRest: isNull,
  does: () => ['moves'],
  row: (box) => `${box!.width} x ${box!.height} from ${box!.left}, ${box!.top}`,
  said: (box) => `cropped to ${box!.width} x ${box!.height}`,
  size: (_size, box) => ({ width: box!.width, height: box!.height }),
});
