import type { StillRecord } from '../record.ts';

export const pam = {
  words: 'PAM',
  endings: ['pam'],
  reads: ['u8', 'u10', 'u12', 'u16'],
  usual: {},
  writes: {
    samples: ['u8', 'u16'],
    alpha: true,
    lossless: true,
    told: { colour: 'usual' },
    compression: () => 'none',
  },
  documented: {
    read: 'any greatest sample, with and without alpha',
    written: '8, 16 bits, with and without alpha',
    colour: 'none: you declare it',
    rate: 'no',
    pixelAspect: 'no',
    profile: 'no',
  },
} as const satisfies StillRecord;
