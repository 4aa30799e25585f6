import type { CodecWriter } from './codec.ts';

export const pngmov: CodecWriter = {
  encoder: 'png',
  layout: ({ sample, hasAlpha }) =>
    sample === 'u8' ? (hasAlpha ? 'rgba' : 'rgb24') : hasAlpha ? 'rgba64be' : 'rgb48be',
  options: () => ({}),
};
