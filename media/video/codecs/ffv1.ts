import { bitsIn, deep, type CodecWriter } from './codec.ts';

export const ffv1: CodecWriter = {
  encoder: 'ffv1',
  layout: ({ sample, hasAlpha }) =>
    sample === 'u8' ? (hasAlpha ? 'bgra' : 'bgr0') : `gbr${hasAlpha ? 'a' : ''}p${deep(sample)}`,
  // Version 3 with checksums over slices: what is kept for years can be checked by itself.
  options: () => ({ level: '3', slicecrc: '1', slices: '4', g: '1' }),
  prepare(context, { sample }) {
    if (sample !== 'u8') context.bitsPerRawSample = bitsIn(sample);
  },
};
