import { z } from 'zod';
import {
  soundConversionSchema,
  soundFactsSchema,
  soundReceiptSchema,
  soundSwapSchema,
  swapReceiptSchema,
} from '@shale/core';
import { route } from './route.ts';

const stream = z.coerce.number().int().min(1).max(64).optional();

/** Where a result goes, and what it is called. */
const target = {
  into: z.object({ root: z.string(), folder: z.string().max(400) }),
  /** The name of the results without their ending; null takes the source's. */
  stem: z
    .string()
    .regex(/^[^/\\:*?"<>|\u0000-\u001f]{1,120}$/)
    .nullable()
    .default(null),
};
/** What may be wrong with a sound that is looked at, and with one that is written. */
const looking = ['source-not-found', 'file-gone', 'no-sound'] as const;
const writing = [...looking, 'bad-sound', 'damaged-file', 'output-exists', 'folder-denied', 'disk-full'] as const;

/** What sounds hold, and what they are written as. */
export const soundRoutes = {
  getSound: route({
    method: 'get',
    path: '/sources/:source/sound',
    problems: looking,
    summary: 'What the sound of a source holds, measured over every sample: loudness, peaks, silence, clipping',
    query: z.object({ stream }),
    response: soundFactsSchema,
  }),
  soundMeasured: route({
    method: 'get',
    path: '/sources/:source/sound/measured',
    problems: looking,
    summary: 'How many seconds of a sound have been measured; null if it is not being measured now',
    query: z.object({ stream }),
    response: z.object({ seconds: z.number().nullable() }),
  }),
  soundWave: route({
    method: 'get',
    path: '/sources/:source/sound/wave',
    problems: looking,
    summary: 'The waveform of a stretch of samples, in columns, as core/sound/wave.ts packs it',
    query: z.object({
      stream,
      from: z.coerce.number().int().min(-1e11).max(1e11),
      to: z.coerce.number().int().min(-1e11).max(1e11),
      columns: z.coerce.number().int().min(1).max(8192),
    }),
    produces: 'application/octet-stream',
  }),
  soundSamples: route({
    method: 'get',
    path: '/sources/:source/sound/samples',
    problems: looking,
    summary: 'Samples of a sound: 32-bit floats, interleaved, little-endian, 1 for full scale; fewer where it ends',
    query: z.object({
      stream,
      from: z.coerce.number().int().min(0).max(1e11),
      count: z.coerce.number().int().min(1).max(1_000_000),
    }),
    produces: 'application/octet-stream',
  }),
  writeSound: route({
    method: 'post',
    path: '/sources/:source/sound/written',
    problems: writing,
    summary: 'Write a sound as WAV, FLAC, AAC or Opus, and read it back; nothing is left where the asker goes',
    body: z.object({
      conversion: soundConversionSchema,
      ...target,
    }),
    response: soundReceiptSchema,
  }),
  replaceSound: route({
    method: 'post',
    path: '/sources/:source/sound/replaced',
    problems: writing,
    summary: 'Write a clip with other sound, its pictures as they are coded: each sound becomes a track',
    body: z.object({
      /** Sources with sound, in the order of the tracks. */
      sounds: z
        .array(z.object({ source: z.string(), stream: z.int().min(1).max(64).nullable().default(null) }))
        .min(1)
        .max(16),
      swap: soundSwapSchema,
      ...target,
    }),
    response: swapReceiptSchema,
  }),
} as const;
