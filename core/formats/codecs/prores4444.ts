import type { CodecRecord } from '../record.ts';
import { toldInVideo } from './told.ts';

export const prores4444 = {
  words: 'ProRes 4444',
  containers: ['mov'],
  writes: { samples: ['u10'], alpha: true, lossless: false, told: toldInVideo },
  controls: 'profile',
  joins: true,
  profile: '4444',
} as const satisfies CodecRecord;
