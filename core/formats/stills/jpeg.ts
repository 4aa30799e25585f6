import type { StillRecord } from '../record.ts';
import { exifTexts } from './exifTexts.ts';

export const jpeg = {
  words: 'JPEG',
  endings: ['jpg', 'jpeg', 'jpe'],
  reads: ['u8'],
  usual: {
    transfer: { value: 'srgb', detail: 'default for JPEG without a profile' },
    primaries: { value: 'bt709', detail: 'default for JPEG without a profile' },
  },
  writes: {
    samples: ['u8'],
    alpha: false,
    lossless: false,
    told: { colour: 'profile', pixelAspect: true, texts: [...exifTexts, 'Comment'] },
    settings: () => ['quality', 'jpegChroma'],
    compression: ({ quality, jpegChroma }) => `quality ${quality}, ${jpegChroma}`,
    lossy: ({ quality }) => `JPEG at quality ${quality}`,
  },
  documented: {
    read: '8 bits',
    written: '8 bits, quality, 4:4:4 or 4:2:0',
    colour: 'by a profile; all but film log',
    rate: 'no',
    pixelAspect: 'JFIF density',
    profile: 'read, written',
  },
} as const satisfies StillRecord;
