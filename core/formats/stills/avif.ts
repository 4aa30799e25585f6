import type { StillRecord } from '../record.ts';

export const avif = {
  words: 'AVIF',
  endings: ['avif'],
  reads: ['u8', 'u10', 'u12'],
  usual: {},
  writes: {
    samples: ['u8'],
    alpha: true,
    alphaRule: 'straight',
    lossless: false,
    without: [1, 2],
    told: { colour: 'usual' },
    settings: () => ['quality'],
    compression: ({ quality }) => `quality ${quality}`,
    lossy: ({ quality }) => `AVIF at quality ${quality}`,
  },
  documented: {
    read: '8, 10, 12 bits; sequences without alpha',
    written: '8 bits, by quality, colour as densely as light',
    colour: 'nclx',
    rate: 'sequences',
    pixelAspect: 'no',
    profile: 'no',
  },
} as const satisfies StillRecord;
