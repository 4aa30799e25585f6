import type { StillRecord } from '../record.ts';

export const tga = {
  words: 'TGA',
  endings: ['tga'],
  reads: ['u8'],
  usual: {},
  writes: {
    samples: ['u8'],
    alpha: true,
    lossless: true,
    without: [2],
    told: { colour: 'usual' },
    compression: () => 'RLE',
  },
  documented: {
    read: 'grey, palettes, colour of 15, 16, 24, 32 bits, RLE or not',
    written: '8, 24, 32 bits, RLE',
    colour: 'none: you declare it',
    rate: 'no',
    pixelAspect: 'no',
    profile: 'no',
  },
} as const satisfies StillRecord;
