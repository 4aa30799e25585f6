import type { StillRecord } from '../record.ts';

export const webp = {
  words: 'WebP',
  endings: ['webp'],
  reads: ['u8'],
  usual: { alpha: { value: 'straight', detail: 'WebP defines alpha as straight' } },
  writes: {
    samples: ['u8'],
    alpha: true,
    alphaRule: 'straight',
    lossless: true,
    without: [1, 2],
    told: { colour: 'usual' },
    settings: ({ lossless }) => (lossless ? ['lossless'] : ['lossless', 'quality']),
    compression: ({ lossless, quality }) => (lossless ? 'lossless' : `quality ${quality}`),
    lossy: ({ lossless, quality }) => (lossless ? undefined : `WebP at quality ${quality}`),
  },
  documented: {
    read: 'lossless and lossy, animations',
    written: 'lossless (clear colours kept) or by quality',
    colour: 'none: sRGB is taken',
    rate: 'animations',
    pixelAspect: 'no',
    profile: 'read',
  },
} as const satisfies StillRecord;
