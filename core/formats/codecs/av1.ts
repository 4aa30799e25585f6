import type { CodecRecord } from '../record.ts';
import { toldInVideo } from './told.ts';

export const av1 = {
  words: 'AV1',
  containers: ['webm'],
  writes: { samples: ['u8', 'u10'], alpha: false, lossless: false, told: { ...toldInVideo, timecode: false } },
  controls: 'rate',
  joins: true,
  crf: { start: 24, most: 63 },
  chroma: ['4:2:0'],
  oddSides: true,
  // The encoder never ends narrower ones.
  least: { width: 32, height: 16 },
  aims: true,
  presets: ['2', '4', '5', '6', '7', '8', '9', '10', '12'],
} as const satisfies CodecRecord;
