import type { CodecRecord } from '../record.ts';

export const gif = {
  words: 'GIF',
  containers: ['gif'],
  writes: {
    samples: ['u8'],
    alpha: true,
    alphaRule: 'straight',
    lossless: false,
    told: { colour: 'usual', rate: true },
  },
  controls: 'palette',
  // Players take a delay below two hundredths for ten.
  animation: { perSecond: 100, fastest: 50, forgetsClear: true },
  most: 65_535,
} as const satisfies CodecRecord;
