import type { StillRecord } from '../record.ts';

export const avif = {
  words: 'AVIF',
  endings: ['avif'],
  reads: ['u8', 'u10', 'u12'],
  usual: {},
  documented: {
    read: '8, 10, 12 bits',
    written: 'no',
    colour: 'nclx',
    rate: 'no',
    pixelAspect: 'no',
    profile: 'no',
  },
} as const satisfies StillRecord;
