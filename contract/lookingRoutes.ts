import { z } from 'zod';
import { comparisonSchema, lookViewSchema, scopesSchema, weighedSchema } from '@shale/core';
import { id, route, wantedSchema } from './route.ts';
import { frameCheckSchema, frameFactsSchema, madeBySchema, proofSchema } from './schemas.ts';

/** Which of several streams of sound, from 1; absent for the one that a player would take. */

/** Pictures and numbers of frames: of sources, of proofs and of what jobs made. */
export const lookingRoutes = {
  preview: route({
    method: 'get',
    path: '/sources/:source/frames/:frame/preview',
    summary: 'A picture of a frame for looking at: 8-bit sRGB, straight alpha',
    query: z.object({
      width: z.coerce.number().int().min(16).max(4096).default(1280),
      // `quick`: JPEG where it is opaque, PNG where it is not.
      // `half` and `float`: linear light and alpha with what a pixel is to be warned of, as core/viewing/wire.ts packs it.
      format: z.enum(['quick', 'png', 'half', 'float']).default('quick'),
      v: z.string().optional(),
    }),
    produces: ['image/jpeg', 'image/png', 'application/octet-stream'],
  }),
  frameFacts: route({
    method: 'get',
    path: '/sources/:source/frames/:frame/facts',
    summary: 'What the file of a frame is: its name, bytes and time, and what its header says',
    response: frameFactsSchema,
  }),
  startChecks: route({
    method: 'post',
    changes: ['Check'],
    path: '/sources/check',
    summary: 'Decode every picture of some sources, one source after another; damage becomes a finding',
    body: z.object({ sources: z.array(id).min(1).max(100_000) }).strict(),
    /** How many have pictures that can be decoded. */
    response: z.object({ started: z.int() }),
    status: 202,
  }),
  getCheck: route({
    method: 'get',
    about: ['Check'],
    path: '/sources/:source/check',
    summary: 'How far the check of a source is; null if none is under way',
    response: frameCheckSchema.nullable(),
  }),
  stopCheck: route({
    method: 'post',
    changes: ['Check'],
    path: '/sources/:source/check/stop',
    summary: 'Stop the check of a source; what it found so far stays',
    response: frameCheckSchema.nullable(),
  }),
  piece: route({
    method: 'get',
    path: '/sources/:source/frames/:frame/piece',
    summary: 'A piece of a frame in its file’s own samples, cut off at the edges, as core/viewing/wire.ts packs it',
    query: z.object({
      left: z.coerce.number().int().min(0),
      top: z.coerce.number().int().min(0),
      width: z.coerce.number().int().min(1).max(1024),
      height: z.coerce.number().int().min(1).max(1024),
    }),
    produces: 'application/octet-stream',
  }),
  weight: route({
    method: 'get',
    path: '/sources/:source/weight',
    summary: 'What playing a source costs on this machine: bytes and decoding times of its frames',
    response: weighedSchema,
  }),
  scopes: route({
    method: 'get',
    path: '/sources/:source/frames/:frame/scopes',
    summary:
      'What a frame, or a box of it, holds: ends, mean, deviation, clip counts, histogram and waveform by channel',
    query: z
      .object({
        left: z.coerce.number().int().min(0),
        top: z.coerce.number().int().min(0),
        width: z.coerce.number().int().min(1),
        height: z.coerce.number().int().min(1),
      })
      .partial(),
    response: scopesSchema,
  }),
  compare: route({
    method: 'get',
    path: '/comparison',
    problems: ['source-not-found', 'frame-missing', 'file-gone'],
    summary:
      'How two frames differ, the first brought to the curve and primaries of the second; null if their sizes differ',
    query: z.object({ a: id, frameA: z.coerce.number().int(), b: id, frameB: z.coerce.number().int() }),
    response: z.object({ comparison: comparisonSchema.nullable() }),
  }),
  lookAtPlan: route({
    method: 'post',
    path: '/plans/look',
    problems: ['source-not-found', 'frame-missing', 'file-gone'],
    summary:
      'One frame of a plan worked for looking at: the result, its matte, its status, or where it loses something',
    body: wantedSchema.extend({
      /** Of the source. */
      frame: z.int(),
      view: lookViewSchema.default('result'),
      width: z.int().min(16).max(4096).default(1280),
    }),
    produces: ['image/jpeg', 'image/png'],
  }),
  prove: route({
    method: 'post',
    path: '/plans/proof',
    problems: ['source-not-found'],
    summary: 'Make some results for real, into a folder that is thrown away; the proof can be looked at as a source',
    body: wantedSchema.extend({
      /** Of the source. */
      frames: z.array(z.int()).min(1).max(12),
    }),
    response: proofSchema,
  }),
  madeBy: route({
    method: 'get',
    about: ['Receipt', 'Source'],
    path: '/receipts/:job/made',
    problems: ['receipt-not-found'],
    summary: 'What a job made, as a source that can be looked at, and what it was made of',
    response: madeBySchema,
  }),
  getProofExactness: route({
    method: 'get',
    path: '/proofs/:proof/frames/:frame/exactness',
    summary: 'How a proved frame, by its source frame, differs from the same work in 32-bit floats',
    response: comparisonSchema,
  }),
} as const;
