export { folderApart } from './apart.ts';
export {
  type Batch,
  batchOf,
  batchSchema,
  mostOutputs,
  mostSources,
  ownIn,
  specFor,
  withDifference,
  withOutput,
  withoutDifference,
  withoutOutput,
} from './batch.ts';
export { collisionsAmong } from './collisions.ts';
export { type Own, ownOf, ownSchema, withOwn } from './own.ts';
export {
  type BatchPart,
  type BatchSource,
  digestOfBatch,
  type Part,
  partSchema,
  partsOf,
  planPart,
  readyIn,
  type Sums,
  sumsOf,
  sumsSchema,
} from './plan.ts';
export { sentenceOfBatch } from './sentence.ts';
export { sourcesSaid, spokenOf, spokenSchema, type SpokenSources } from './spoken.ts';
