import type { StillRecord } from '../record.ts';
import { exifTexts } from './exifTexts.ts';

export const tiff = {
  words: 'TIFF',
  endings: ['tif', 'tiff'],
  reads: ['u8', 'u16', 'f16', 'f32'],
  readsCompressed: [
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
  usual: {},
  writes: {
    samples: ['u8', 'u16', 'f32'],
    alpha: true,
    lossless: true,
    told: { colour: 'profile', pixelAspect: true, texts: ['Title', ...exifTexts] },
    settings: ({ tiffCompression }) =>
      tiffCompression === 'deflate' ? ['tiffCompression', 'effort'] : ['tiffCompression'],
    compression: ({ tiffCompression }) => tiffCompression,
    compressedAs: ({ tiffCompression }) => tiffCompression,
  },
  documented: {
    read: '8, 16 bits, half, float, and 32-bit whole numbers and 64-bit floats as floats; strips, tiles, planes',
    written: '8, 16 bits, float; none, LZW, deflate; alpha said as it is meant',
    colour: 'by a profile; all but film log',
    rate: 'no',
    pixelAspect: 'resolution',
    profile: 'read, written',
  },
} as const satisfies StillRecord;
