import type { CodecRecord } from '../record.ts';
import { toldInVideo } from './told.ts';

export const avifanim = {
  words: 'AVIF sequence',
  containers: ['avif'],
  writes: {
    samples: ['u8', 'u10'],
    alpha: false,
    lossless: false,
    told: { ...toldInVideo, timecode: false, pixelAspect: false },
  },
  controls: 'quality',
  // The library's encoder writes no alpha, and its container no count of loops.
  animation: { forEver: true },
  chroma: ['4:2:0'],
  oddSides: true,
  // The encoder never ends narrower ones.
  least: { width: 32, height: 16 },
} as const satisfies CodecRecord;
