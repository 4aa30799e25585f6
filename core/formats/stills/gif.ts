import type { StillRecord } from '../record.ts';

export const gif = {
  words: 'GIF',
  endings: ['gif'],
  reads: ['u8'],
  usual: {
    alpha: { value: 'straight', detail: 'GIF pixels are clear or not' },
    transfer: { value: 'srgb', detail: 'default for GIF' },
    primaries: { value: 'bt709', detail: 'default for GIF' },
  },
  documented: {
    read: 'every picture of an animation, laid over those before it',
    written: 'no',
    colour: 'none',
    rate: 'delays',
    pixelAspect: 'no',
    profile: 'no',
  },
} as const satisfies StillRecord;
