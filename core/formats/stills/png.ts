import type { StillRecord } from '../record.ts';

export const png = {
  words: 'PNG',
  endings: ['png', 'apng'],
  reads: ['u8', 'u16'],
  usual: {
    alpha: { value: 'straight', detail: 'PNG defines alpha as straight' },
    transfer: { value: 'srgb', detail: 'default for PNG without a colour chunk' },
    primaries: { value: 'bt709', detail: 'default for PNG without a colour chunk' },
  },
  writes: {
    samples: ['u8', 'u16'],
    alpha: true,
    alphaRule: 'straight',
    lossless: true,
    told: { colour: 'points', pixelAspect: true, texts: true },
    settings: () => ['effort'],
    compression: ({ effort }) => `effort ${effort}`,
  },
  documented: {
    read: '8, 16 bits; grey, colour, each with and without alpha; palette, one clear colour, 1 to 4 bits; every picture of an APNG',
    written: '8, 16 bits, effort 1 to 9',
    colour: 'cICP, iCCP, sRGB, gAMA, cHRM; all but film log',
    rate: 'of animations',
    pixelAspect: 'pHYs',
    profile: 'read, written (iCCP)',
  },
} as const satisfies StillRecord;
