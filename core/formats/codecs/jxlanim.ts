import type { CodecRecord } from '../record.ts';

export const jxlanim = {
  words: 'Animated JPEG XL',
  containers: ['jxl'],
  writes: {
    samples: ['u8', 'u16'],
    alpha: true,
    alphaRule: 'straight',
    lossless: false,
    told: { colour: 'usual', rate: true },
  },
  controls: 'either',
  // A tick is a fraction of a second of its own (ISO/IEC 18181-1, annex D); the library's encoder says no count of loops.
  animation: { forgetsClear: true, forEver: true, unseen: true },
} as const satisfies CodecRecord;
