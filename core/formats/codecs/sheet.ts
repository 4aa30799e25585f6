import type { CodecRecord } from '../record.ts';

export const sheet = {
  words: 'Sprite sheet',
  containers: ['png', 'webp'],
  writes: {
    samples: ['u8'],
    alpha: true,
    alphaRule: 'straight',
    lossless: true,
    told: { colour: 'usual', rate: true },
  },
  controls: 'lossless',
  // What is cut off around a frame is clear; its place and time are told in the JSON beside the picture.
  animation: { forgetsClear: true, unseen: true, isSheet: true },
} as const satisfies CodecRecord;
