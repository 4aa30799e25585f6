import type { CodecRecord } from '../record.ts';

export const lottie = {
  words: 'Lottie',
  containers: ['json'],
  writes: {
    samples: ['u8'],
    alpha: true,
    alphaRule: 'straight',
    lossless: false,
    told: { colour: 'usual', rate: true },
  },
  controls: 'either',
  // Times are counted in frames of a rate; how often it plays is up to the player.
  animation: { forgetsClear: true, forEver: true },
} as const satisfies CodecRecord;
