import type { CodecRecord } from '../record.ts';
import { toldInVideo } from './told.ts';

/** SMPTE ST 2019-1, at any size from 256 x 120. */
export const vc3 = {
  words: 'VC-3',
  containers: ['mxf', 'mov'],
  writes: { samples: ['u8', 'u10'], alpha: false, lossless: false, told: toldInVideo },
  controls: 'profile',
  joins: true,
  profile: 'high quality',
  ownChroma: '4:2:2',
  least: { width: 256, height: 120 },
} as const satisfies CodecRecord;
