import type { CodecRecord } from '../record.ts';
import { toldInVideo } from './told.ts';

export const vp9 = {
  words: 'VP9',
  containers: ['webm'],
  writes: {
    samples: ['u8', 'u10'],
    alpha: true,
    alphaRule: 'straight',
    lossless: false,
    told: { ...toldInVideo, timecode: false },
  },
  controls: 'rate',
  joins: true,
  crf: { start: 24, most: 63 },
  chroma: ['4:2:0', '4:4:4'],
  oddSides: true,
  aims: true,
  presets: ['0', '1', '2', '3', '4', '5', '6', '7', '8'],
} as const satisfies CodecRecord;
