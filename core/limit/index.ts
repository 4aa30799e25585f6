export { parseBytes } from './bytes.ts';
export { smallSentence } from './sentence.ts';
export { fitsLimit, givenWords, limitOf, modelledLoss, planGiven, stepOf, type Fitted } from './movable.ts';
export { haloOf, type Halo } from './halo.ts';
export { likenessOf } from './likeness.ts';
export { limitTrySchema, shownTrySchema, type LimitTry, type ShownTry } from './try.ts';
export { goodShare, mostTries, solveLimit, type Solved, type Tried } from './solve.ts';
export { printFloor, type Floor } from '../formats/floor.ts';
