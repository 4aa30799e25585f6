import { z } from 'zod';
import { id, route, wantedSchema } from './route.ts';
import { batchRoutes } from './batchRoutes.ts';
import { standingRoutes } from './standingRoutes.ts';
import { jobRoutes } from './jobRoutes.ts';
import { lookingRoutes } from './lookingRoutes.ts';
import { nameRoutes } from './nameRoutes.ts';
import { searchRoutes } from './searchRoutes.ts';
import { soundRoutes } from './soundRoutes.ts';
import { timeRoutes } from './timeRoutes.ts';
import { alphaEvidenceSchema, boxSchema, planSchema, problemSchema, specSchema, wordSchema } from '@shale/core';
import {
  arrivalSchema,
  browsedSchema,
  folderCountSchema,
  listedSourceSchema,
  offeredFileSchema,
  overviewSchema,
  ruleSchema,
  sourceFilterSchema,
  sourceSortSchema,
  measuredSchema,
  newRootSchema,
  rootSchema,
} from './schemas.ts';
import { healthSchema, serverStateSchema } from './serverSchemas.ts';

/** Every operation: server, web and OpenAPI page are made from this table. */
export const routes = {
  ...lookingRoutes,
  ...soundRoutes,
  ...timeRoutes,
  ...nameRoutes,
  health: route({
    method: 'get',
    about: ['Health'],
    path: '/health',
    summary: 'Whether the server and everything it needs are well; answers 503 and what is wrong if not',
    response: healthSchema,
  }),
  serverState: route({
    method: 'get',
    path: '/server',
    summary: 'What an operator watches: processes, queues, rates, memory, disks, recent errors',
    response: serverStateSchema,
  }),
  listRoots: route({
    method: 'get',
    about: ['Root'],
    path: '/roots',
    summary: 'The folders that Shale may read or write',
    response: z.array(rootSchema),
  }),
  browse: route({
    method: 'get',
    path: '/browse',
    problems: ['outside-places', 'folder-gone', 'folder-denied'],
    summary: 'Folders of the machine that may be added; the allowed places if none is named',
    query: z.object({ path: z.string().max(4000).optional() }),
    response: browsedSchema,
  }),
  addRoot: route({
    method: 'post',
    changes: ['Root', 'Source'],
    path: '/roots',
    problems: ['outside-places', 'folder-gone', 'folder-denied', 'not-writable', 'taken'],
    summary: 'Add a folder of the machine as a root, and scan it',
    body: newRootSchema,
    response: rootSchema,
    status: 201,
  }),
  removeRoot: route({
    method: 'delete',
    changes: ['Root', 'Source'],
    path: '/roots/:root',
    problems: ['not-added', 'folder-in-use'],
    summary: 'Remove an added folder from the list; nothing on the disk is touched',
    response: z.object({ removed: z.boolean() }),
  }),
  scanRoot: route({
    method: 'post',
    changes: ['Root'],
    path: '/roots/:root/scan',
    summary: 'Scan a root; progress comes as events',
    response: rootSchema,
    status: 202,
  }),
  stopScan: route({
    method: 'post',
    changes: ['Root'],
    path: '/roots/:root/scan/stop',
    summary: 'Stop a scan; what it found so far stays',
    response: rootSchema,
  }),
  listRules: route({
    method: 'get',
    about: ['Rule'],
    path: '/roots/:root/rules',
    summary: 'What is declared for whole folders of a root',
    response: z.array(ruleSchema),
  }),
  putRule: route({
    method: 'put',
    changes: ['Rule', 'Source'],
    path: '/roots/:root/rules',
    summary: 'Declare facts for a folder and everything below; an empty word removes the rule',
    body: ruleSchema.strict(),
    response: z.array(ruleSchema),
  }),
  listFolders: route({
    method: 'get',
    about: ['Source'],
    path: '/folders',
    summary: 'Folders directly below the roots, with the number of sources in and below each',
    response: z.array(folderCountSchema),
  }),
  listSources: route({
    method: 'get',
    about: ['Source'],
    path: '/sources',
    summary: 'The sources that scans found, filtered, sorted, in pages',
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
    about: ['Source'],
    path: '/sources/overview',
    summary: 'How many sources a filter leaves, in which folders, and what could narrow it further',
    query: sourceFilterSchema.extend({ sort: sourceSortSchema.default('folder') }),
    response: overviewSchema,
  }),
  namedSources: route({
    method: 'post',
    about: ['Source'],
    path: '/sources/named',
    summary: 'Sources by their root, folder and name, in the order asked for; null for one that does not exist',
    body: z.array(z.object({ root: z.string(), folder: z.string(), name: z.string() })).max(1000),
    response: z.array(listedSourceSchema.nullable()),
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
    changes: ['Source'],
    path: '/words',
    summary: 'Declare facts of many sources; cleared facts return to their other grounds',
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
    changes: ['Source'],
    path: '/sources/:source/findings/:code',
    summary: 'Set a finding aside with a reason, which receipts repeat; no reason reopens it',
    body: z.object({ reason: z.string().trim().min(1).max(500).nullable() }).strict(),
    response: listedSourceSchema,
  }),
  alphaEvidence: route({
    method: 'get',
    path: '/sources/:source/alpha-evidence',
    summary: 'What the pixels of some frames say about their alpha; it changes nothing',
    response: alphaEvidenceSchema,
  }),
  bringIn: route({
    method: 'post',
    path: '/intake',
    problems: ['outside-root', 'disk-full'],
    summary: 'Announce an upload; the same files again resume where they stopped',
    body: z.object({ name: z.string().max(200), files: z.array(offeredFileSchema).min(1).max(100_000) }).strict(),
    response: arrivalSchema,
    status: 201,
  }),
  getSource: route({
    method: 'get',
    about: ['Source'],
    path: '/sources/:source',
    summary: 'One source',
    response: listedSourceSchema,
  }),
  declare: route({
    method: 'put',
    changes: ['Source'],
    path: '/sources/:source/word',
    summary: 'Declare facts; a fact that is left out returns to its other grounds',
    body: wordSchema,
    response: listedSourceSchema,
  }),
  startingSpec: route({
    method: 'get',
    path: '/sources/:source/spec',
    summary: 'A spec to start with',
    response: specSchema,
  }),
  makePlan: route({
    method: 'post',
    about: ['Source', 'Plan'],
    path: '/plans',
    problems: ['source-not-found'],
    summary: 'Plan a conversion; nothing is written',
    body: wantedSchema,
    response: planSchema,
  }),
  lookAtTarget: route({
    method: 'post',
    about: ['Source', 'Plan', 'Job'],
    path: '/plans/target',
    problems: ['source-not-found', 'root-not-found'],
    summary: 'Which names of a plan exist already, whether that prevents it, and how much space is free',
    body: wantedSchema,
    response: z.object({
      /** Names that exist, and all that would be written. */
      taken: z.int(),
      of: z.int(),
      problem: problemSchema.nullable(),
      /** A folder beside it that is not there yet, where names are in the way. */
      free: z.string().nullable(),
      /** Bytes that are free on the disk that is written; null where it does not tell. */
      room: z.number().min(0).nullable(),
    }),
  }),
  measure: route({
    method: 'post',
    about: ['Source'],
    path: '/plans/measure',
    problems: ['source-not-found'],
    summary: 'Convert some frames, or all, without keeping them: losses, bytes and time',
    body: wantedSchema.extend({ frames: z.enum(['sample', 'all']).default('sample') }),
    response: measuredSchema,
  }),
  contentBox: route({
    method: 'post',
    path: '/plans/content',
    summary: 'The smallest box that holds all that is not clear, over every frame of a plan; null if all is clear',
    body: wantedSchema,
    response: z.object({ box: boxSchema.nullable(), frames: z.int() }),
  }),
  scenes: route({
    method: 'post',
    path: '/sources/:source/scenes',
    summary: 'The first picture of each scene of a clip; decodes the whole clip',
    response: z.object({ frames: z.array(z.int()) }),
  }),
  ...jobRoutes,
  ...batchRoutes,
  ...standingRoutes,
  ...searchRoutes,
  events: route({
    method: 'get',
    path: '/events',
    summary: 'Server-sent events: jobs, roots, sources',
    produces: 'text/event-stream',
  }),
  openapi: route({ method: 'get', path: '/openapi.json', summary: 'This description', produces: 'application/json' }),
} as const;
