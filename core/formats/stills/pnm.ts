import type { StillRecord } from '../record.ts';

export const pnm = {
  words: 'PPM/PGM',
  endings: ['ppm', 'pgm', 'pnm'],
  reads: ['u8', 'u10', 'u12', 'u16'],
  usual: {},
  writes: {
    samples: ['u8', 'u16'],
    alpha: false,
    lossless: true,
    told: { colour: 'usual' },
    compression: () => 'none',
  },
  documented: {
    read: 'PBM, PGM, PPM: bytes and text, any greatest sample',
    written: '8, 16 bits',
    colour: 'none: you declare it',
    rate: 'no',
    pixelAspect: 'no',
    profile: 'no',
  },
} as const satisfies StillRecord;
