import { z } from 'zod';
import { estimateSchema, frameRangeSchema, writtenSchema } from '@shale/core';
import { route, wantedSchema } from './route.ts';
import { jobLogLineSchema, jobPrioritySchema, jobSchema, receiptEntrySchema } from './schemas.ts';

/** Which part of a long list, the newest first. */
export const pageSchema = z.object({
  limit: z.coerce.number().int().min(1).max(500).default(200),
  /** Those made before this, milliseconds since 1970. */
  before: z.coerce.number().int().min(0).max(1e14).optional(),
});

/** Jobs and their receipts. */
export const jobRoutes = {
  startJob: route({
    method: 'post',
    changes: ['Job'],
    path: '/jobs',
    problems: [
      'source-not-found',
      'root-not-found',
      'root-read-only',
      'outside-root',
      'folder-gone',
      'source-changed',
      'plan-changed',
      'output-exists',
      'output-claimed',
      'folder-in-use',
      'not-writable',
      'disk-full',
    ],
    summary: 'Run a plan; with the digest of the plan that was shown, only that plan runs',
    // What was thought of it before, where it was measured: the receipt keeps it.
    body: wantedSchema.extend({ estimate: estimateSchema.optional(), digest: z.string().max(64).optional() }),
    response: jobSchema,
    status: 201,
  }),
  listJobs: route({
    method: 'get',
    about: ['Job'],
    path: '/jobs',
    summary: 'Jobs, the newest first',
    query: pageSchema,
    response: z.array(jobSchema),
  }),
  getJob: route({
    method: 'get',
    path: '/jobs/:job',
    problems: ['job-not-found'],
    summary: 'One job',
    response: jobSchema,
  }),
  jobLog: route({
    method: 'get',
    path: '/jobs/:job/log',
    problems: ['job-not-found'],
    summary: 'What happened to a job, oldest first',
    response: z.array(jobLogLineSchema),
  }),
  stopJob: route({
    method: 'post',
    changes: ['Job'],
    path: '/jobs/:job/stop',
    problems: ['job-not-found'],
    summary: 'Stop a job after the frames in work; it can go on',
    response: jobSchema,
  }),
  cancelJob: route({
    method: 'post',
    changes: ['Job'],
    path: '/jobs/:job/cancel',
    problems: ['job-not-found', 'not-stopped'],
    summary: 'End a job for good; what it wrote stays',
    response: jobSchema,
  }),
  continueJob: route({
    method: 'post',
    changes: ['Job'],
    path: '/jobs/:job/continue',
    problems: ['job-not-found', 'not-stopped', 'folder-gone', 'output-claimed', 'result-changed', 'disk-full'],
    summary: 'Let a job go on at the next frame, and try again what failed, or results of some numbers',
    body: z.object({
      /** Source files that changed since the plan are taken, and listed in the receipt. */
      changed: z.literal('take').optional(),
      /** Numbers of results that are made again in place of what the job wrote. */
      again: z.array(frameRangeSchema).max(1000).optional(),
    }),
    response: jobSchema,
  }),
  orderJob: route({
    method: 'put',
    changes: ['Job'],
    path: '/jobs/:job/order',
    problems: ['job-not-found'],
    summary: 'When a job has its turn: its priority, and its place among those that wait',
    body: z.object({
      priority: jobPrioritySchema.optional(),
      /** It begins just before this job; null for after all others. */
      before: z.string().max(60).nullable().optional(),
    }),
    response: jobSchema,
  }),
  listReceipts: route({
    method: 'get',
    about: ['Receipt'],
    path: '/receipts',
    summary: 'Receipts, the newest first',
    query: pageSchema,
    response: z.array(receiptEntrySchema),
  }),
  getReceipt: route({
    method: 'get',
    path: '/receipts/:job',
    problems: ['receipt-not-found'],
    summary: 'What a job wrote and how it was checked',
    response: receiptEntrySchema,
  }),
  manifest: route({
    method: 'get',
    path: '/receipts/:job/manifest',
    problems: ['receipt-not-found', 'file-gone', 'result-changed'],
    summary: 'SHA-256 sums of the written files, a line each; or, each read again, an ASC hash list',
    query: z.object({ form: z.enum(['sums', 'mhl']).default('sums') }),
    produces: 'text/plain',
  }),
  writtenFiles: route({
    method: 'get',
    path: '/receipts/:job/files',
    problems: ['receipt-not-found'],
    summary: 'Every written file, its checksum, its check and what it was made of',
    response: z.array(writtenSchema),
  }),
  fileTable: route({
    method: 'get',
    path: '/receipts/:job/table',
    problems: ['receipt-not-found'],
    summary: 'The same as a table, CSV',
    produces: 'text/csv',
  }),
  report: route({
    method: 'get',
    path: '/receipts/:job/report',
    problems: ['receipt-not-found'],
    summary: 'A report for a client: one self-contained HTML file or a PDF, with a contact sheet',
    query: z.object({ kind: z.enum(['html', 'pdf']).default('html') }),
    produces: 'text/html',
  }),
  archive: route({
    method: 'get',
    path: '/receipts/:job/archive',
    problems: ['receipt-not-found', 'file-gone'],
    summary: 'The written files as one ZIP archive',
    produces: 'application/zip',
  }),
} as const;
