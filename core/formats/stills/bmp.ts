import type { StillRecord } from '../record.ts';

export const bmp = {
  words: 'BMP',
  endings: ['bmp'],
  reads: ['u8'],
  usual: {
    transfer: { value: 'srgb', detail: 'default for BMP' },
    primaries: { value: 'bt709', detail: 'default for BMP' },
  },
  writes: {
    samples: ['u8'],
    alpha: true,
    lossless: true,
    without: [1, 2],
    told: { colour: 'usual' },
    compression: () => 'none',
  },
  documented: {
    read: 'palettes, run-length coded or not, 16, 24, 32 bits, masks',
    written: '24 bits; 32 with alpha and masks',
    colour: 'none: sRGB is meant',
    rate: 'no',
    pixelAspect: 'no',
    profile: 'no',
  },
} as const satisfies StillRecord;
