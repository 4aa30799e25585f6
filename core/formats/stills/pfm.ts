import type { StillRecord } from '../record.ts';

export const pfm = {
  words: 'PFM',
  endings: ['pfm'],
  reads: ['f32'],
  usual: {},
  writes: {
    samples: ['f32'],
    alpha: false,
    lossless: true,
    light: true,
    told: { colour: 'linear' },
    compression: () => 'none',
  },
  documented: {
    read: 'float',
    written: 'float',
    colour: 'none: you declare it',
    rate: 'no',
    pixelAspect: 'no',
    profile: 'no',
  },
} as const satisfies StillRecord;
