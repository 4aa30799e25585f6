import { z } from 'zod';
import {
  cleanLoopSchema,
  cadenceSchema,
  markerColourSchema,
  markersSchema,
  problemSchema,
  rateSchema,
  shotSchema,
} from '@shale/core';
import { route, wantedSchema } from './route.ts';

/** The markers of a source, and how often they were changed: who changes them says from which state on. */
export const sourceMarkersSchema = z.object({ version: z.int().min(0), markers: markersSchema });
export type SourceMarkers = z.infer<typeof sourceMarkersSchema>;

/** What a list's times count from. */
export const anchorSchema = z.enum(['frames', 'timecode', 'start']);

/** The text of an edit list or a table, and the name of its file, whose ending tells what it is. */
const fileText = { name: z.string().min(1).max(255), text: z.string().max(20_000_000) };

/** Cadence, markers, edit lists, contact sheets. */
export const timeRoutes = {
  cadence: route({
    method: 'get',
    about: ['Cadence'],
    path: '/sources/:source/cadence',
    summary: 'The cadence of a source if it was found and the source has not changed since; else null',
    response: z.object({ cadence: cadenceSchema.nullable() }),
  }),
  findCadence: route({
    method: 'post',
    changes: ['Cadence', 'Plan'],
    path: '/sources/:source/cadence',
    summary: 'Find repeated and missing frames, holds and pulldown; every frame is read once',
    response: z.object({ cadence: cadenceSchema.nullable() }),
  }),
  findLoops: route({
    method: 'post',
    path: '/sources/:source/loops',
    summary: 'Stretches of a source that loop cleanly, best first',
    body: z
      .object({
        /** Frames of a loop, at the least. */
        least: z.int().min(2).max(600).default(8),
      })
      .strict(),
    response: z.object({ loops: z.array(cleanLoopSchema) }),
  }),
  markers: route({
    method: 'get',
    about: ['Markers'],
    path: '/sources/:source/markers',
    summary: 'The markers of a source, in the order of their frames',
    response: sourceMarkersSchema,
  }),
  putMarkers: route({
    method: 'put',
    changes: ['Markers', 'Plan'],
    path: '/sources/:source/markers',
    problems: ['markers-changed'],
    summary: 'Set the markers of a source; refused if they have changed since the version',
    body: sourceMarkersSchema.strict(),
    response: sourceMarkersSchema,
  }),
  readMarkers: route({
    method: 'post',
    path: '/sources/:source/markers/read',
    summary: 'Read markers for a source from an edit list (EDL, OTIO) or a table (CSV); nothing is kept',
    body: z.object({ ...fileText, anchor: anchorSchema.optional() }).strict(),
    response: z.object({ markers: markersSchema, problems: z.array(problemSchema), anchor: anchorSchema }),
  }),
  markersFile: route({
    method: 'get',
    path: '/sources/:source/markers/file',
    summary: 'The markers of a source as a file: EDL, OTIO or CSV',
    query: z.object({ kind: z.enum(['edl', 'otio', 'csv']).default('csv') }),
    produces: 'text/plain',
  }),
  readEdit: route({
    method: 'post',
    path: '/edits/read',
    summary: 'Read the cuts of an edit list (EDL, OTIO) as shots of known sources; nothing is kept',
    body: z
      .object({
        ...fileText,
        /** In which the list counts. */
        rate: rateSchema,
        /** Only sources of this root and folder, and below. */
        root: z.string().max(40).optional(),
        folder: z.string().max(4000).optional(),
      })
      .strict(),
    response: z.object({
      title: z.string(),
      shots: z.array(shotSchema),
      problems: z.array(problemSchema),
      /** The id of the first shot's source. */
      first: z.string().nullable(),
    }),
  }),
  editFile: route({
    method: 'post',
    path: '/edits/file',
    summary: 'The shots of a plan as an edit list, with the markers of its source',
    body: wantedSchema.extend({ kind: z.enum(['edl', 'otio']) }),
    produces: 'text/plain',
  }),
  contactSheet: route({
    method: 'get',
    path: '/sources/:source/sheet',
    summary: 'A contact sheet: frames with names and numbers, as PNG or PDF',
    query: z.object({
      kind: z.enum(['png', 'pdf']).default('png'),
      at: z.enum(['markers', 'spread']).default('spread'),
      count: z.coerce.number().int().min(1).max(400).default(20),
      columns: z.coerce.number().int().min(1).max(12).default(5),
      title: z.string().max(200).default(''),
      colours: z
        .string()
        .max(200)
        .default('')
        .transform((text) => text.split(',').filter((one) => one !== ''))
        .pipe(z.array(markerColourSchema)),
      text: z.string().max(200).default(''),
    }),
    produces: 'image/png',
  }),
} as const;
