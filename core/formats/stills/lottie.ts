import type { StillRecord } from '../record.ts';

export const lottie = {
  words: 'Lottie',
  // Other files are JSON too: only what a file says tells it.
  endings: [],
  reads: ['u8'],
  usual: {
    alpha: { value: 'straight', detail: 'its pictures are PNG or WebP' },
    transfer: { value: 'srgb', detail: 'default for Lottie' },
    primaries: { value: 'bt709', detail: 'default for Lottie' },
  },
  documented: {
    read: 'animations whose every frame is one embedded picture',
    written: 'no',
    colour: 'none: sRGB is meant',
    rate: 'read',
    pixelAspect: 'no',
    profile: 'no',
  },
} as const satisfies StillRecord;
