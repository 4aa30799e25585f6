import type { StillRecord } from '../record.ts';

export const jxl = {
  words: 'JPEG XL',
  endings: ['jxl'],
  reads: ['u8', 'u10', 'u12', 'u16', 'f16', 'f32'],
  usual: {},
  writes: {
    samples: ['u8', 'u16', 'f32'],
    alpha: true,
    lossless: true,
    without: [2],
    told: { colour: 'usual' },
    settings: ({ lossless }) => (lossless ? ['lossless'] : ['lossless', 'quality']),
    compression: ({ lossless, quality }) => (lossless ? 'lossless' : `quality ${quality}`),
    lossy: ({ lossless, quality }) => (lossless ? undefined : `JPEG XL at quality ${quality}`),
  },
  documented: {
    read: '8 to 16 bits, float',
    written: '8, 16 bits, float; lossless or by quality',
    colour: 'none: sRGB, or linear for floats, is taken',
    rate: 'no',
    pixelAspect: 'no',
    profile: 'no',
  },
} as const satisfies StillRecord;
