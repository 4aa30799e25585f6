import type { CodecRecord } from '../record.ts';
import { toldInVideo } from './told.ts';

export const pngmov = {
  words: 'PNG in MOV',
  containers: ['mov'],
  writes: { samples: ['u8', 'u16'], alpha: true, alphaRule: 'straight', lossless: true, told: toldInVideo },
  controls: 'lossless',
  joins: true,
} as const satisfies CodecRecord;
