import { z } from 'zod';
import type { Facts, SampleFormat } from '../numbering/source.ts';
import { sampleWords } from '../pixels/image.ts';

/** Still formats that this version writes. */
export const pictureFormats = [
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
] as const;

/** Videos that this version writes, by their codec; ProRes by its profile too, and PNG pictures in MOV. */
export const videoFormats = ['h264', 'h265', 'prores422', 'prores4444', 'vp9', 'av1', 'ffv1', 'pngmov'] as const;

export const formatSchema = z.enum([...pictureFormats, ...videoFormats]);
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
  h264: { words: 'H.264', ext: 'mp4', samples: ['u8', 'u10'], alpha: false, lossless: false },
  h265: { words: 'H.265', ext: 'mp4', samples: ['u8', 'u10'], alpha: false, lossless: false },
  prores422: { words: 'ProRes 422 HQ', ext: 'mov', samples: ['u10'], alpha: false, lossless: false },
  prores4444: { words: 'ProRes 4444', ext: 'mov', samples: ['u10'], alpha: true, lossless: false },
  vp9: {
    words: 'VP9',
    ext: 'webm',
    samples: ['u8', 'u10'],
    alpha: true,
    lossless: false,
    alphaRule: 'straight',
  },
  av1: { words: 'AV1', ext: 'webm', samples: ['u8', 'u10'], alpha: false, lossless: false },
  ffv1: { words: 'FFV1', ext: 'mkv', samples: ['u8', 'u10', 'u12', 'u16'], alpha: true, lossless: true },
  pngmov: {
    words: 'PNG in MOV',
    ext: 'mov',
    samples: ['u8', 'u16'],
    alpha: true,
    lossless: true,
    alphaRule: 'straight',
  },
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

/** Compressions with which a format is read, as its facts say them; a format that is not here is read with any. */
const readCompressions: Record<string, readonly string[]> = {
  tiff: [
    'none',
    'lzw',
    'deflate',
    'packbits',
    'jpeg',
    'zstd',
    'CCITT run lengths',
    'CCITT group 3',
    'CCITT group 4',
    'WebP',
  ],
};

/** Whether pictures with these facts are read by this version, and not their header alone. */
export const isRead = (facts: Pick<Facts, 'format' | 'sample' | 'clip' | 'compression'>): boolean =>
  unreadAs(facts) === undefined;

/** What files with these facts are that makes them unreadable to this version, to be read behind "is"; undefined where they are read. */
export function unreadAs({
  format,
  sample,
  clip,
  compression,
}: Pick<Facts, 'format' | 'sample' | 'clip' | 'compression'>): string | undefined {
  if (clip !== undefined) return undefined;
  if (!readSamples[format]?.includes(sample)) return `${format.toUpperCase()} of ${sampleWords(sample)} samples`;
  const known = readCompressions[format];
  return compression === undefined || !known || known.includes(compression)
    ? undefined
    : `${format.toUpperCase()} compressed with ${compression}`;
}

/** What helps where a file is not read. */
export const notReadWayOut =
  'Have it made as PNG, TIFF of 8 or 16 bits without compression or with LZW or deflate, or OpenEXR.';
