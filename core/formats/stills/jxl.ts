import type { StillRecord } from '../record.ts';

export const jxl = {
  words: 'JPEG XL',
  endings: ['jxl'],
  reads: ['u8', 'u10', 'u12', 'u16', 'f16', 'f32'],
  usual: {},
  writes: {
    samples: ['u8', 'u16', 'f32'],
    alpha: true,
    alphaRule: 'straight',
    lossless: true,
    without: [2],
    told: {
      colour: {
        transfers: ['srgb', 'linear', 'bt709', 'gamma-2.2', 'pq', 'hlg'],
        primaries: ['bt709', 'p3', 'bt2020'],
      },
    },
    settings: ({ lossless }) => (lossless ? ['lossless'] : ['lossless', 'quality']),
    compression: ({ lossless, quality }) => (lossless ? 'lossless' : `quality ${quality}`),
    lossy: ({ lossless, quality }) => (lossless ? undefined : `JPEG XL at quality ${quality}`),
  },
  documented: {
    read: '8 to 16 bits, float; grey and colour, with and without alpha; every picture of an animation',
    written: '8, 16 bits, float; lossless or by quality',
    colour: 'its own; all but gamma 2.4, film log and ACEScg',
    rate: 'no',
    pixelAspect: 'no',
    profile: 'no',
  },
} as const satisfies StillRecord;
