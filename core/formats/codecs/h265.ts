import type { CodecRecord } from '../record.ts';
import { toldInVideo, x26Presets } from './told.ts';

export const h265 = {
  words: 'H.265',
  containers: ['mp4', 'mov'],
  writes: { samples: ['u8', 'u10'], alpha: false, lossless: false, told: toldInVideo },
  controls: 'rate',
  joins: true,
  crf: { start: 20, most: 51 },
  chroma: ['4:2:0', '4:2:2', '4:4:4'],
  twoPasses: true,
  presets: x26Presets,
} as const satisfies CodecRecord;
