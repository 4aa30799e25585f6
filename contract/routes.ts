import { z } from 'zod';
import {
  alphaEvidenceSchema,
  boxSchema,
  lookViewSchema,
  namingSpecSchema,
  planSchema,
  specSchema,
  wordSchema,
} from '@shale/core';
import {
  batchSchema,
  folderCountSchema,
  jobSchema,
  listedSourceSchema,
  offeredFileSchema,
  overviewSchema,
  ruleSchema,
  sourceFilterSchema,
  sourceSortSchema,
  measuredSchema,
  listedReceiverSchema,
  loadedSchema,
  receiptEntrySchema,
  renamePlanSchema,
  renameRowSchema,
  renameSchema,
  rootSchema,
  savedSpecSchema,
  savedStackSchema,
} from './schemas.ts';

/** One operation of the HTTP API. Bodies are JSON; `:name` in the path is a parameter. */
export interface Route<
  B extends z.ZodType = z.ZodType,
  R extends z.ZodType = z.ZodType,
  Q extends z.ZodType = z.ZodType,
> {
  method: 'get' | 'post' | 'put' | 'delete';
  /** Below `/api`. */
  path: string;
  summary: string;
  body?: B;
  query?: Q;
  /** Absent where the answer is not JSON; `produces` says what it is then. */
  response?: R;
  produces?: string;
  status?: number;
}

const route = <B extends z.ZodType, R extends z.ZodType, Q extends z.ZodType>(value: Route<B, R, Q>): Route<B, R, Q> =>
  value;

const id = z.string().regex(/^[\w-]{1,40}$/);

/** A source and what is wanted of it. */
export const wantedSchema = z.object({ source: id, spec: z.unknown() }).strict();

/** Sources in their order, and the naming spec for them. */
export const renameWantedSchema = z.object({ sources: z.array(id).min(1).max(100_000), spec: z.unknown() }).strict();

/** Every operation: server, web and OpenAPI page are made from this table. */
export const routes = {
  health: route({
    method: 'get',
    path: '/health',
    summary: 'Whether the server is up',
    response: z.object({ version: z.string(), ready: z.boolean() }),
  }),
  listRoots: route({
    method: 'get',
    path: '/roots',
    summary: 'The folders that Shale may read or write',
    response: z.array(rootSchema),
  }),
  scanRoot: route({
    method: 'post',
    path: '/roots/:root/scan',
    summary: 'Scan a root; progress comes as events',
    response: rootSchema,
    status: 202,
  }),
  stopScan: route({
    method: 'post',
    path: '/roots/:root/scan/stop',
    summary: 'Stop a scan; what it found so far stays',
    response: rootSchema,
  }),
  listRules: route({
    method: 'get',
    path: '/roots/:root/rules',
    summary: 'What is declared for whole folders of a root',
    response: z.array(ruleSchema),
  }),
  putRule: route({
    method: 'put',
    path: '/roots/:root/rules',
    summary: 'Declare facts for a folder and what lies below; an empty word takes the rule away',
    body: ruleSchema.strict(),
    response: z.array(ruleSchema),
  }),
  listFolders: route({
    method: 'get',
    path: '/folders',
    summary: 'Folders directly below the roots, with how many sources lie in and below each',
    response: z.array(folderCountSchema),
  }),
  listSources: route({
    method: 'get',
    path: '/sources',
    summary: 'What the scans found, narrowed, sorted, a piece at a time',
    query: sourceFilterSchema.extend({
      sort: sourceSortSchema.default('folder'),
      descending: z.stringbool().default(false),
      offset: z.coerce.number().int().min(0).default(0),
      limit: z.coerce.number().int().min(1).max(10_000).default(1000),
      // Most parts of each source's weights: a narrow strip needs few.
      parts: z.coerce.number().int().min(16).max(1024).default(1024),
    }),
    response: z.array(listedSourceSchema),
  }),
  sourcesOverview: route({
    method: 'get',
    path: '/sources/overview',
    summary: 'How many sources a filter leaves, in which folders, and what could narrow it further',
    query: sourceFilterSchema.extend({ sort: sourceSortSchema.default('folder') }),
    response: overviewSchema,
  }),
  sourceIds: route({
    method: 'get',
    path: '/sources/ids',
    summary: 'The ids of all sources that a filter leaves',
    query: sourceFilterSchema,
    response: z.array(z.string()),
  }),
  declareMany: route({
    method: 'put',
    path: '/words',
    summary: 'Declare facts of many sources by your word; facts to clear go back to their other grounds',
    body: z
      .object({
        sources: z.array(id).min(1).max(100_000),
        set: wordSchema.default({}),
        clear: z.array(z.enum(['rate', 'alpha', 'transfer', 'primaries', 'first', 'pixelAspect', 'matte'])).default([]),
      })
      .strict(),
    response: z.object({ changed: z.int() }),
  }),
  setAside: route({
    method: 'put',
    path: '/sources/:source/findings/:code',
    summary: 'Set a finding aside with a reason, which receipts repeat; no reason takes it up again',
    body: z.object({ reason: z.string().trim().min(1).max(500).nullable() }).strict(),
    response: listedSourceSchema,
  }),
  alphaEvidence: route({
    method: 'get',
    path: '/sources/:source/alpha-evidence',
    summary: 'What the pixels of some frames say about their alpha; it decides nothing',
    response: alphaEvidenceSchema,
  }),
  bringIn: route({
    method: 'post',
    path: '/intake',
    summary: 'Announce files to bring in; the same files again go on where they stopped',
    body: z.object({ name: z.string().max(200), files: z.array(offeredFileSchema).min(1).max(100_000) }).strict(),
    response: batchSchema,
    status: 201,
  }),
  getSource: route({ method: 'get', path: '/sources/:source', summary: 'One source', response: listedSourceSchema }),
  declare: route({
    method: 'put',
    path: '/sources/:source/word',
    summary: 'Declare facts by your word; a fact left out goes back to its other grounds',
    body: wordSchema,
    response: listedSourceSchema,
  }),
  preview: route({
    method: 'get',
    path: '/sources/:source/frames/:frame/preview',
    summary: 'A picture of a frame for looking at: 8-bit sRGB, straight alpha',
    query: z.object({
      width: z.coerce.number().int().min(16).max(4096).default(1280),
      format: z.enum(['webp', 'png']).default('webp'),
      v: z.string().optional(),
    }),
    produces: 'image/webp',
  }),
  startingSpec: route({
    method: 'get',
    path: '/sources/:source/spec',
    summary: 'A spec to begin with',
    response: specSchema,
  }),
  makePlan: route({
    method: 'post',
    path: '/plans',
    summary: 'Work a conversion out; nothing is written',
    body: wantedSchema,
    response: planSchema,
  }),
  measure: route({
    method: 'post',
    path: '/plans/measure',
    summary: 'Convert some frames, or all, without keeping them: losses, bytes and time',
    body: wantedSchema.extend({ frames: z.enum(['sample', 'all']).default('sample') }),
    response: measuredSchema,
  }),
  lookAtPlan: route({
    method: 'post',
    path: '/plans/look',
    summary:
      'One frame of a plan worked for looking at: the result, its matte, its status, or where it loses something',
    body: wantedSchema.extend({
      /** Of the source. */
      frame: z.int(),
      view: lookViewSchema.default('result'),
      width: z.int().min(16).max(4096).default(1280),
    }),
    produces: 'image/webp',
  }),
  contentBox: route({
    method: 'post',
    path: '/plans/content',
    summary: 'The smallest box that holds all that is not clear, over every frame of a plan; null where all is clear',
    body: wantedSchema,
    response: z.object({ box: boxSchema.nullable(), frames: z.int() }),
  }),
  startJob: route({
    method: 'post',
    path: '/jobs',
    summary: 'Carry a plan out',
    body: wantedSchema,
    response: jobSchema,
    status: 201,
  }),
  listJobs: route({ method: 'get', path: '/jobs', summary: 'Jobs, the newest first', response: z.array(jobSchema) }),
  getJob: route({ method: 'get', path: '/jobs/:job', summary: 'One job', response: jobSchema }),
  stopJob: route({
    method: 'post',
    path: '/jobs/:job/stop',
    summary: 'Stop a job after the frames in work',
    response: jobSchema,
  }),
  continueJob: route({
    method: 'post',
    path: '/jobs/:job/continue',
    summary: 'Let a stopped job go on at the next frame',
    response: jobSchema,
  }),
  listReceipts: route({
    method: 'get',
    path: '/receipts',
    summary: 'Receipts, the newest first',
    response: z.array(receiptEntrySchema),
  }),
  getReceipt: route({
    method: 'get',
    path: '/receipts/:job',
    summary: 'What a job wrote and how it was checked',
    response: receiptEntrySchema,
  }),
  manifest: route({
    method: 'get',
    path: '/receipts/:job/manifest',
    summary: 'SHA-256 sums of the written files, a line each',
    produces: 'text/plain',
  }),
  archive: route({
    method: 'get',
    path: '/receipts/:job/archive',
    summary: 'The written files as one ZIP archive',
    produces: 'application/zip',
  }),
  planRename: route({
    method: 'post',
    path: '/renames/plan',
    summary: 'Work new names out; nothing is touched',
    body: renameWantedSchema.extend({ receiver: z.string().max(60).optional() }),
    response: renamePlanSchema,
  }),
  renameRows: route({
    method: 'post',
    path: '/renames/rows',
    summary: 'Some rows of a plan that was worked out: all, those that change, or those with a fault',
    body: z
      .object({
        digest: z.string(),
        show: z.enum(['all', 'changed', 'faults']).default('all'),
        offset: z.int().min(0).default(0),
        limit: z.int().min(1).max(1000).default(100),
      })
      .strict(),
    response: z.object({ total: z.int(), rows: z.array(renameRowSchema) }),
  }),
  startRename: route({
    method: 'post',
    path: '/renames',
    summary: 'Carry a plan out, all or nothing; refused where its names are no longer those of the digest',
    body: renameWantedSchema.extend({ digest: z.string() }),
    response: renameSchema,
    status: 201,
  }),
  mendingNames: route({
    method: 'post',
    path: '/renames/mend',
    summary: 'The sources and rules that mend a finding by new names',
    body: z.object({ source: id, code: z.string() }).strict(),
    response: z.object({ sources: z.array(z.string()), spec: namingSpecSchema }),
  }),
  listRenames: route({
    method: 'get',
    path: '/renames',
    summary: 'The history of renames, the newest first',
    response: z.array(renameSchema),
  }),
  undoRename: route({
    method: 'post',
    path: '/renames/:rename/undo',
    summary: 'Bring the old names back; with rest, what can be brought back where something was touched since',
    body: z.object({ rest: z.boolean().default(false) }).strict(),
    response: renameSchema,
    status: 201,
  }),
  stopRename: route({
    method: 'post',
    path: '/renames/:rename/stop',
    summary: 'Stop a rename; everything is as it was then',
    response: renameSchema,
  }),
  listStacks: route({
    method: 'get',
    path: '/stacks',
    summary: 'Saved naming rules',
    response: z.array(savedStackSchema),
  }),
  saveStack: route({
    method: 'post',
    path: '/stacks',
    summary: 'Save naming rules under a name; a name that exists gets a new version',
    body: z.object({ name: z.string().trim().min(1).max(80), spec: z.unknown() }).strict(),
    response: savedStackSchema,
    status: 201,
  }),
  deleteStack: route({
    method: 'delete',
    path: '/stacks/:stack',
    summary: 'Remove saved naming rules',
    response: z.object({ removed: z.boolean() }),
  }),
  listReceivers: route({
    method: 'get',
    path: '/receivers',
    summary: 'The rules of tools that read what is handed over',
    response: z.array(listedReceiverSchema),
  }),
  putReceiver: route({
    method: 'put',
    path: '/receivers/:receiver',
    summary: 'Change a receiver',
    body: z.object({ receiver: z.unknown() }).strict(),
    response: listedReceiverSchema,
  }),
  addReceivers: route({
    method: 'post',
    path: '/receivers',
    summary: 'Add receivers from a file of them; a name that exists gets a number',
    body: z.unknown(),
    response: z.array(listedReceiverSchema),
    status: 201,
  }),
  deleteReceiver: route({
    method: 'delete',
    path: '/receivers/:receiver',
    summary: 'Remove a receiver; one that Shale brings along is as it came',
    response: z.object({ removed: z.boolean() }),
  }),
  received: route({
    method: 'get',
    path: '/sources/:source/received',
    summary: 'What a strict reader with a receiver’s rules loads of the folder of a source',
    query: z.object({ receiver: z.string().max(60) }),
    response: loadedSchema,
  }),
  listSpecs: route({ method: 'get', path: '/specs', summary: 'Saved specs', response: z.array(savedSpecSchema) }),
  saveSpec: route({
    method: 'post',
    path: '/specs',
    summary: 'Save a spec under a name; a name that exists gets a new version',
    body: z.object({ name: z.string().trim().min(1).max(80), spec: z.unknown() }).strict(),
    response: savedSpecSchema,
    status: 201,
  }),
  deleteSpec: route({
    method: 'delete',
    path: '/specs/:spec',
    summary: 'Remove a saved spec',
    response: z.object({ removed: z.boolean() }),
  }),
  events: route({
    method: 'get',
    path: '/events',
    summary: 'Server-sent events: jobs, roots, sources',
    produces: 'text/event-stream',
  }),
  openapi: route({ method: 'get', path: '/openapi.json', summary: 'This description', produces: 'application/json' }),
} as const;
