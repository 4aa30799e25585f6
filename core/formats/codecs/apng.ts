import type { CodecRecord } from '../record.ts';

export const apng = {
  words: 'Animated PNG',
  containers: ['apng'],
  writes: {
    samples: ['u8', 'u16'],
    alpha: true,
    alphaRule: 'straight',
    lossless: true,
    told: { colour: 'usual', rate: true },
  },
  controls: 'lossless',
  // A delay is a fraction of two 16-bit numbers (PNG, third edition, 11.3.6.2).
  animation: {},
} as const satisfies CodecRecord;
