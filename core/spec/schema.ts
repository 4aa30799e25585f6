import { z } from 'zod';
import { sampleSchema } from '../numbering/source.ts';
import { beside, pictureSchema } from '../pixels/picture.ts';
import { alphaOutSchema } from '../pixels/recipe.ts';
import { channelsSchema } from './channels.ts';
import { burnSchema } from './burn.ts';
import { matteSchema, primariesSchema, transferSchema } from '../pixels/colourNames.ts';
import { settingSchemas } from '../formats/settings.ts';
import { formatSchema } from './formats.ts';
import { markedSchema } from './marker.ts';
import { timeSchema } from './time.ts';
import { clipSpecSchema, soundSchema, videoSchema } from './video.ts';

/** How results are named where nothing is said. */
export const usualTemplate = '{stem}.{frame:4}.{ext}';

/**
 * Where a frame number has no file: leave its result out too (a video closes up), refuse to run, hold the frame before it, or put a
 * picture there that says so.
 */
export const missingPolicySchema = z.enum(['leave-out', 'stop', 'hold', 'slate']);

/** Frames whose file is empty or damaged: each fails (a video is not begun), or they are treated as missing. */
export const damagedPolicySchema = z.enum(['fail', 'as-missing']);

/** Pictures of another size or with other channels than most of their source: refuse to run, fit them, or leave them out. */
export const mixedPolicySchema = z.enum(['stop', 'fit', 'leave-out']);

/** A source that follows another, and what of it is taken. */
export const shotSchema = z
  .object({
    source: beside.strict(),
    /** `all`, or ranges. */
    frames: z.string().min(1).default('all'),
  })
  .strict();
export type Shot = z.infer<typeof shotSchema>;

/** Everything about what comes out. */
export const specSchema = z
  .object({
    version: z.literal(1),
    /** `all`, ranges as `1-60,70`, or `markers`: a still at each that `marked` chooses. */
    frames: z.string().min(1).default('all'),
    marked: markedSchema.prefault({}),
    /** Sources whose frames follow those of the first, in this order. */
    then: z.array(shotSchema).max(1000).default([]),
    /** How a clip is taken apart. */
    clip: clipSpecSchema.prefault({}),
    /** What becomes of the frames in time. */
    time: timeSchema.prefault({}),
    missing: missingPolicySchema.default('leave-out'),
    damaged: damagedPolicySchema.default('fail'),
    mixed: mixedPolicySchema.default('stop'),
    write: z
      .object({
        format: formatSchema,
        sample: sampleSchema,
        alpha: alphaOutSchema,
        transfer: transferSchema,
        /** The colour that a premultiplied result lies on, in its own values; null for black. */
        matte: matteSchema.nullable().default(null),
        /** null keeps the source's. */
        primaries: primariesSchema.nullable().default(null),
        // How a still is compressed: what a format has no setting for is left aside.
        ...settingSchemas,
      })
      .strict(),
    /** Channels that are carried over one by one, from OpenEXR to OpenEXR, in place of the picture. */
    channels: channelsSchema,
    /** What happens to the picture in between. */
    picture: pictureSchema.prefault({}),
    /** How a video is written, where the format is one. */
    video: videoSchema.prefault({}),
    sound: soundSchema.prefault({}),
    /** What is written into the pictures. */
    burn: burnSchema.prefault({}),
    names: z
      .object({
        /** The stem of the results; null keeps the source's. */
        stem: z.string().max(120).nullable().default(null),
        template: z.string().min(1).max(200).default(usualTemplate),
        /** The number of the first result; null keeps the source's numbers. */
        first: z.int().min(-1_000_000).max(100_000_000).nullable().default(null),
        /** Whether results are numbered one after another, whatever frames they come from. */
        closeUp: z.boolean().default(false),
      })
      .strict()
      .prefault({}),
    into: z
      .object({
        /** Id of a root that may be written. */
        root: z.string().default('results'),
        /** Below the root; null takes the stem. */
        folder: z.string().max(400).nullable().default(null),
      })
      .strict()
      .prefault({}),
    /** Where a result's name exists: refuse the whole plan, or replace the file. */
    existing: z.enum(['refuse', 'replace']).default('refuse'),
    /** Whether each written file is read again from disk, decoded and compared. */
    readBack: z.boolean().default(true),
  })
  .strict();
export type Spec = z.infer<typeof specSchema>;
export type SpecInput = z.input<typeof specSchema>;
