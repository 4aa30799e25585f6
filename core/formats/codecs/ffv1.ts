import type { CodecRecord } from '../record.ts';
import { toldInVideo } from './told.ts';

export const ffv1 = {
  words: 'FFV1',
  containers: ['mkv'],
  writes: { samples: ['u8', 'u10', 'u12', 'u16'], alpha: true, lossless: true, told: toldInVideo },
  controls: 'lossless',
  joins: true,
} as const satisfies CodecRecord;
