import { z } from 'zod';
import { batchSchema, estimateSchema } from '@shale/core';
import {
  batchPlanSchema,
  batchReceiptSchema,
  batchViewSchema,
  manySchema,
  mostTried,
  partEstimateSchema,
  triedPartSchema,
  wantedOfManySchema,
} from './batchSchemas.ts';
import { pageSchema } from './jobRoutes.ts';
import { id, route } from './route.ts';
import { jobPrioritySchema, jobSchema, listedSourceSchema } from './schemas.ts';

const count = z.int().min(0);

/** Many sources at once. */
export const batchRoutes = {
  keepSelection: route({
    method: 'post',
    path: '/selections',
    summary: 'Keep a list of sources under an id, so that an address can name it; the same list has the same id',
    body: manySchema,
    response: z.object({ id: z.string(), sources: count }),
    status: 201,
  }),
  getSelection: route({
    method: 'get',
    path: '/selections/:selection',
    summary: 'The ids of a list of sources that was kept',
    response: z.object({ sources: z.array(z.string()) }),
  }),
  sourcesOf: route({
    method: 'post',
    about: ['Source'],
    path: '/sources/some',
    summary: 'Sources by their ids, in that order; sources that no longer exist are left out',
    body: z.object({ sources: z.array(id).min(1).max(200) }).strict(),
    response: z.array(listedSourceSchema),
  }),
  planBatch: route({
    method: 'post',
    about: ['Source', 'Plan', 'Job'],
    path: '/batches/plan',
    problems: ['selection-not-found', 'nothing-selected', 'too-many-sources', 'root-not-found', 'receiver-not-found'],
    summary: 'Plan many sources with one spec or several: results, problems, breaches, totals; nothing is written',
    body: wantedOfManySchema.extend({
      /** Id of a receiver that every part is held against. */
      receiver: id.optional(),
    }),
    response: batchPlanSchema,
  }),
  measureBatch: route({
    method: 'post',
    about: ['Source'],
    path: '/batches/measure',
    problems: ['selection-not-found', 'nothing-selected', 'too-many-sources'],
    summary: 'Estimate the bytes and seconds of a batch: a few results of each kind of source are made and not kept',
    body: wantedOfManySchema,
    response: estimateSchema.extend({
      /** By part, as far as it could be told. */
      parts: z.array(partEstimateSchema),
    }),
  }),
  tryBatch: route({
    method: 'post',
    about: ['Source'],
    path: '/batches/try',
    problems: ['selection-not-found', 'nothing-selected', 'too-many-sources'],
    summary: 'Make one result of each part that can run, read it back and keep nothing',
    body: z.object({ sources: z.array(id).min(1).max(mostTried), batch: batchSchema }).strict(),
    response: z.array(triedPartSchema),
  }),
  startBatch: route({
    method: 'post',
    changes: ['Job'],
    path: '/batches',
    problems: [
      'selection-not-found',
      'nothing-selected',
      'too-many-sources',
      'plan-changed',
      'nothing-to-run',
      'root-not-found',
      'disk-full',
    ],
    summary: 'Run what can run of a batch; with the digest of the plan that was shown, only that plan runs',
    body: wantedOfManySchema.extend({ digest: z.string().max(64).optional() }),
    response: batchViewSchema,
    status: 201,
  }),
  listBatches: route({
    method: 'get',
    about: ['Job'],
    path: '/batches',
    summary: 'Batches, the newest first',
    query: pageSchema,
    response: z.array(batchViewSchema),
  }),
  getBatch: route({
    method: 'get',
    about: ['Job'],
    path: '/batches/:batch',
    summary: 'One batch',
    response: batchViewSchema,
  }),
  batchWanted: route({
    method: 'get',
    path: '/batches/:batch/wanted',
    summary: 'The specs and sources of a batch, to do it again',
    response: z.object({ batch: batchSchema, sources: z.array(z.string()) }),
  }),
  batchJobs: route({
    method: 'get',
    about: ['Job'],
    path: '/batches/:batch/jobs',
    summary: 'The jobs of a batch in its order, a part at a time',
    query: z.object({
      offset: z.coerce.number().int().min(0).default(0),
      limit: z.coerce.number().int().min(1).max(500).default(100),
    }),
    response: z.array(jobSchema),
  }),
  stopBatch: route({
    method: 'post',
    changes: ['Job'],
    path: '/batches/:batch/stop',
    summary: 'Stop all jobs of a batch; they can go on',
    response: batchViewSchema,
  }),
  continueBatch: route({
    method: 'post',
    changes: ['Job'],
    path: '/batches/:batch/continue',
    problems: ['not-stopped'],
    summary:
      'Let the stopped jobs of a batch go on, and try again what failed; jobs that are still blocked stay stopped',
    body: z.object({ changed: z.literal('take').optional() }),
    response: batchViewSchema,
  }),
  cancelBatch: route({
    method: 'post',
    changes: ['Job'],
    path: '/batches/:batch/cancel',
    summary: 'End a batch for good; what it wrote stays',
    response: batchViewSchema,
  }),
  orderBatch: route({
    method: 'put',
    changes: ['Job'],
    path: '/batches/:batch/order',
    summary: 'When the jobs of a batch have their turn',
    body: z.object({ priority: jobPrioritySchema }).strict(),
    response: batchViewSchema,
  }),
  batchReceipt: route({
    method: 'get',
    about: ['Receipt'],
    path: '/batches/:batch/receipt',
    summary: 'What the jobs of a batch wrote and how it was checked',
    response: batchReceiptSchema,
  }),
  batchManifest: route({
    method: 'get',
    path: '/batches/:batch/manifest',
    summary: 'SHA-256 sums of all that a batch wrote, a line each, with its folders',
    produces: 'text/plain',
  }),
  batchArchive: route({
    method: 'get',
    path: '/batches/:batch/archive',
    problems: ['file-gone'],
    summary: 'All that a batch wrote as one ZIP archive, with its folders',
    produces: 'application/zip',
  }),
} as const;
