import type { StillRecord } from '../record.ts';

export const sheet = {
  words: 'Sprite sheet',
  // Other files are JSON too: only what a file says tells it.
  endings: [],
  reads: ['u8'],
  usual: {
    alpha: { value: 'straight', detail: 'its pictures are PNG or WebP' },
    transfer: { value: 'srgb', detail: 'default for Sprite sheet' },
    primaries: { value: 'bt709', detail: 'default for Sprite sheet' },
  },
  documented: {
    read: 'the picture beside it, frame by frame',
    written: 'no',
    colour: 'none: sRGB is meant',
    rate: 'read',
    pixelAspect: 'no',
    profile: 'no',
  },
} as const satisfies StillRecord;
