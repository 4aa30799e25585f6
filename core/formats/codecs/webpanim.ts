import type { CodecRecord } from '../record.ts';

export const webpanim = {
  words: 'Animated WebP',
  containers: ['webp'],
  writes: {
    samples: ['u8'],
    alpha: true,
    alphaRule: 'straight',
    lossless: false,
    told: { colour: 'usual', rate: true },
  },
  controls: 'either',
  animation: { perSecond: 1000, forgetsClear: true, mixes: true },
  // RFC 9649, 2.5.
  most: 16_383,
} as const satisfies CodecRecord;
