import type { CodecRecord } from '../record.ts';
import { toldInVideo } from './told.ts';

export const prores422 = {
  words: 'ProRes 422 HQ',
  containers: ['mov'],
  writes: { samples: ['u10'], alpha: false, lossless: false, told: toldInVideo },
  controls: 'profile',
  joins: true,
  profile: '422 HQ',
  ownChroma: '4:2:2',
} as const satisfies CodecRecord;
