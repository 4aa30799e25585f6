import { z } from 'zod';
import { alphaFrom } from './operations/alphaFrom.ts';
import { crop } from './operations/crop.ts';
import { dither } from './operations/dither.ts';
import { flip } from './operations/flip.ts';
import { highlights } from './operations/highlights.ts';
import { key } from './operations/key.ts';
import { layer } from './operations/layer.ts';
import { levels } from './operations/levels.ts';
import type { Aspect, Doing, Operation, Size } from './operations/operation.ts';
import { over } from './operations/over.ts';
import { pad } from './operations/pad.ts';
import { resize } from './operations/resize.ts';
import { turn } from './operations/turn.ts';
import { window } from './operations/window.ts';

export { alphaFromSchema, type AlphaFrom } from './operations/alphaFrom.ts';
export * from './operations/common.ts';
export { boxSchema, type Box } from './operations/crop.ts';
export { keySchema, type Key } from './operations/key.ts';
export { levelsSchema, type Levels } from './operations/levels.ts';
export { isOverSource, overColourSchema, overSchema, overSourceSchema, type OverSource } from './operations/over.ts';
export { padSchema } from './operations/pad.ts';
export { filterSchema, filterWords, resizedSize, resizeSchema, type Filter, type Resize } from './operations/resize.ts';
export type { Aspect, Doing, Size } from './operations/operation.ts';

/** Every picture operation, in the order in which they are done. */
export const operations = {
  layer,
  window,
  alphaFrom,
  turn,
  flip,
  crop,
  key,
  resize,
  pad,
  over,
  levels,
  highlights,
  dither,
};
export type OperationKey = keyof typeof operations;
export const operationKeys = Object.keys(operations) as OperationKey[];

const schemas = Object.fromEntries(operationKeys.map((name) => [name, operations[name].schema])) as {
  [K in OperationKey]: (typeof operations)[K]['schema'];
};

/** What happens to a picture between reading and writing; an operation at its rest leaves it. */
export const pictureSchema = z.object(schemas).strict();
export type Picture = z.infer<typeof pictureSchema>;

/** A picture that is left as it is. */
export const untouched: Picture = pictureSchema.parse({});

/** An operation with what it is set to. */
interface Set {
  key: OperationKey;
  operation: Operation<z.ZodType, unknown>;
  value: unknown;
}

/** The operations that do something, in their order. */
export const operationsOf = (picture: Picture): Set[] =>
  operationKeys
    .map((name): Set => ({ key: name, operation: operations[name], value: picture[name] }))
    .filter(({ operation, value }) => !operation.isAtRest(value));

/** Whether any operation does this to samples. */
export const doesAny = (picture: Picture, doing: Doing): boolean =>
  operationsOf(picture).some(({ operation, value }) => operation.does(value).includes(doing));

/** Whether nothing is done to a picture. */
export const isUntouched = (picture: Picture): boolean => operationsOf(picture).length === 0;

/** Size and aspect of pixels after all operations. */
function worked(start: { size: Size; aspect: Aspect }, picture: Picture): { size: Size; aspect: Aspect } {
  return operationsOf(picture).reduce(
    ({ size, aspect }, { operation, value }) => ({
      size: operation.size?.(size, value, aspect) ?? size,
      aspect: operation.aspect?.(aspect, value) ?? aspect,
    }),
    start,
  );
}

const square: Aspect = { num: 1, den: 1 };

/** The size of a picture once turned. */
export const turnedSize = (size: Size, picture: Pick<Picture, 'turn'>): Size => turn.size!(size, picture.turn, square);

/** Width to height of a pixel once turned. */
export const turnedAspect = (aspect: Aspect, picture: Pick<Picture, 'turn'>): Aspect =>
  turn.aspect!(aspect, picture.turn);

/** Width to height of a pixel of what comes out: square where it is made so, else what it was. */
export const aspectAfter = (aspect: Aspect, picture: Picture): Aspect =>
  worked({ size: { width: 1, height: 1 }, aspect }, picture).aspect;

/** The size that comes out. */
export const sizeAfter = ({ width, height }: Size, picture: Picture, aspect: Aspect = square): Size =>
  worked({ size: { width, height }, aspect }, picture).size;
