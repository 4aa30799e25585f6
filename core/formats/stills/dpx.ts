import type { StillRecord } from '../record.ts';

/** Texts that the header has fields for (SMPTE ST 268-1, tables 1, 3, 4 and 5), by what they are called here. */
const dpxTexts = [
  'project',
  'copyright',
  'input device',
  'serial number',
  'keycode',
  'film format',
  'frame identification',
  'slate',
  'user bits',
] as const;

export const dpx = {
  words: 'DPX',
  endings: ['dpx'],
  reads: ['u8', 'u10', 'u12', 'u16'],
  usual: {},
  writes: {
    samples: ['u10', 'u8', 'u12', 'u16'],
    alpha: false,
    lossless: true,
    without: [1],
    told: {
      colour: { transfers: ['film-log', 'linear', 'bt709'], primaries: ['bt709'] },
      rate: true,
      timecode: true,
      pixelAspect: true,
      texts: dpxTexts,
    },
    compression: () => 'none',
  },
  documented: {
    read: 'grey, RGB, RGBA of 8, 10, 12, 16 bits, filled or packed; 4:2:2 and 4:4:4',
    written: 'RGB of 8, 10, 12, 16 bits',
    colour: 'printing density, linear, BT.709',
    rate: 'yes',
    pixelAspect: 'yes',
    profile: 'no',
  },
} as const satisfies StillRecord;
