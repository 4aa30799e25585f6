import { z } from 'zod';
import { problemSchema } from '@shale/core';
import { batchViewSchema } from './batchSchemas.ts';
import { standingViewSchema } from './standingSchemas.ts';
import { frameCheckSchema, jobSchema, renameSchema, rootSchema } from './schemas.ts';

/** What the event stream tells. */
export const eventSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('job'), job: jobSchema }),
  z.object({ type: z.literal('batch'), batch: batchViewSchema }),
  z.object({ type: z.literal('standing'), standing: standingViewSchema }),
  z.object({ type: z.literal('root'), root: rootSchema }),
  z.object({ type: z.literal('rename'), rename: renameSchema }),
  z.object({ type: z.literal('sources'), root: z.string() }),
  z.object({ type: z.literal('check'), check: frameCheckSchema }),
  // What the server stands on has changed: what is wrong with it now.
  z.object({ type: z.literal('condition'), problems: z.array(problemSchema) }),
  // A source that was still being written has come to rest.
  z.object({
    type: z.literal('settled'),
    root: z.string(),
    source: z.string(),
    name: z.string(),
    whole: z.boolean(),
    sentence: z.string(),
  }),
]);
export type ServerEvent = z.infer<typeof eventSchema>;
