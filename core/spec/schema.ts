import { z } from 'zod';
import { sampleSchema, type Facts, type SampleFormat } from '../numbering/source.ts';
import { pictureSchema } from '../pixels/picture.ts';
import { alphaOutSchema } from '../pixels/recipe.ts';
import { matteSchema, primariesSchema, transferSchema } from './declaration.ts';

/** Still formats that this version writes. */
export const formatSchema = z.enum([
  'png',
  'tiff',
  'jpeg',
  'tga',
  'exr',
  'dpx',
  'webp',
  'jxl',
  'bmp',
  'pnm',
  'pam',
  'pfm',
]);
export type Format = z.infer<typeof formatSchema>;

/** Compressions of OpenEXR by the standard's names. */
export const exrCompressionSchema = z.enum([
  'NONE',
  'RLE',
  'ZIPS',
  'ZIP',
  'PIZ',
  'PXR24',
  'B44',
  'B44A',
  'DWAA',
  'DWAB',
]);

export const tiffCompressionSchema = z.enum(['none', 'lzw', 'deflate']);

/** What a written format can hold. */
export interface FormatRules {
  /** As the interface writes it. */
  words: string;
  ext: string;
  samples: readonly SampleFormat[];
  alpha: boolean;
  /** Counts of channels that it has no layout for: they are written as the next larger one. */
  without?: readonly number[];
  /** Whether every sample is kept at any setting but a lossy compression. */
  lossless: boolean;
  /** How its standard defines alpha; absent where it says nothing. */
  alphaRule?: 'straight' | 'premultiplied';
}

export const formatRules: Record<Format, FormatRules> = {
  png: { words: 'PNG', ext: 'png', samples: ['u8', 'u16'], alpha: true, lossless: true, alphaRule: 'straight' },
  tiff: { words: 'TIFF', ext: 'tif', samples: ['u8', 'u16', 'f32'], alpha: true, lossless: true },
  jpeg: { words: 'JPEG', ext: 'jpg', samples: ['u8'], alpha: false, lossless: false },
  tga: { words: 'TGA', ext: 'tga', samples: ['u8'], alpha: true, lossless: true, without: [2] },
  exr: {
    words: 'OpenEXR',
    ext: 'exr',
    samples: ['f16', 'f32'],
    alpha: true,
    lossless: true,
    alphaRule: 'premultiplied',
  },
  dpx: {
    words: 'DPX',
    ext: 'dpx',
    samples: ['u10', 'u8', 'u12', 'u16'],
    alpha: false,
    lossless: true,
    without: [1],
  },
  webp: {
    words: 'WebP',
    ext: 'webp',
    samples: ['u8'],
    alpha: true,
    lossless: true,
    alphaRule: 'straight',
    without: [1, 2],
  },
  jxl: { words: 'JPEG XL', ext: 'jxl', samples: ['u8', 'u16', 'f32'], alpha: true, lossless: true, without: [2] },
  bmp: { words: 'BMP', ext: 'bmp', samples: ['u8'], alpha: true, lossless: true, without: [1, 2] },
  pnm: { words: 'PPM/PGM', ext: 'ppm', samples: ['u8', 'u16'], alpha: false, lossless: true },
  pam: { words: 'PAM', ext: 'pam', samples: ['u8', 'u16'], alpha: true, lossless: true },
  pfm: { words: 'PFM', ext: 'pfm', samples: ['f32'], alpha: false, lossless: true },
};

/** Depths in which each still format is read as a picture; of the formats that are not here only the header is. */
const readSamples: Record<string, readonly SampleFormat[]> = {
  png: ['u8', 'u16'],
  jpeg: ['u8'],
  tiff: ['u8', 'u16', 'f16', 'f32'],
  tga: ['u8'],
  exr: ['f16', 'f32'],
  dpx: ['u8', 'u10', 'u12', 'u16'],
  webp: ['u8'],
  gif: ['u8'],
  bmp: ['u8'],
  pnm: ['u8', 'u10', 'u12', 'u16'],
  pam: ['u8', 'u10', 'u12', 'u16'],
  pfm: ['f32'],
  jxl: ['u8', 'u10', 'u12', 'u16', 'f16', 'f32'],
  avif: ['u8', 'u10', 'u12'],
};

/** Whether pictures with these facts are read by this version, and not their header alone. */
export const isRead = ({ format, sample }: Pick<Facts, 'format' | 'sample'>): boolean =>
  readSamples[format]?.includes(sample) ?? false;

/** Where a frame number has no file: leave its result out too, or refuse to run. */
export const missingPolicySchema = z.enum(['leave-out', 'stop']);

/** Pictures of another size or with other channels than most of their source: refuse to run, fit them, or leave them out. */
export const mixedPolicySchema = z.enum(['stop', 'fit', 'leave-out']);

/** Everything about what comes out. */
export const specSchema = z
  .object({
    version: z.literal(1),
    /** `all`, or ranges as `1-60,70`. */
    frames: z.string().min(1).default('all'),
    missing: missingPolicySchema.default('leave-out'),
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
        /** Deflate effort of PNG and TIFF, 1 fast to 9 small. */
        effort: z.int().min(1).max(9).default(3),
        /** JPEG quality, 1 to 100. */
        quality: z.int().min(1).max(100).default(92),
        /** How densely JPEG keeps colour against light: as densely, or a quarter of it. */
        jpegChroma: z.enum(['4:4:4', '4:2:0']).default('4:4:4'),
        /** WebP and JPEG XL: every sample kept, or by quality. */
        lossless: z.boolean().default(true),
        exrCompression: exrCompressionSchema.default('ZIP'),
        /** Of DWAA and DWAB, by the library's own scale: 0 changes least. */
        dwaLevel: z.number().min(0).max(1000).default(45),
        tiffCompression: tiffCompressionSchema.default('deflate'),
      })
      .strict(),
    /** What happens to the picture in between. */
    picture: pictureSchema.prefault({}),
    names: z
      .object({
        /** The stem of the results; null keeps the source's. */
        stem: z.string().max(120).nullable().default(null),
        template: z.string().min(1).max(200).default('{stem}.{frame:4}.{ext}'),
        /** The number of the first result; null keeps the source's numbers. */
        first: z.int().min(-1_000_000).max(100_000_000).nullable().default(null),
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
