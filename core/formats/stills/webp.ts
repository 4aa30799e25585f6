import type { StillRecord } from '../record.ts';

export const webp = {
  words: 'WebP',
  endings: ['webp'],
  reads: ['u8'],
  usual: {
    transfer: { value: 'srgb', detail: 'WebP without a profile means sRGB' },
    primaries: { value: 'bt709', detail: 'WebP without a profile means sRGB' },
    alpha: { value: 'straight', detail: 'WebP defines alpha as straight' },
  },
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
    colour: 'none: sRGB is meant',
    rate: 'animations',
    pixelAspect: 'no',
    profile: 'read',
  },
} as const satisfies StillRecord;
