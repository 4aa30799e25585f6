import type { CodecWriter } from './codec.ts';
import { presetOf, rateOptions, yuvLayout } from './yuv.ts';

export const vp9: CodecWriter = {
  encoder: 'libvpx-vp9',
  layout: (settings) => yuvLayout('vp9', settings),
  options: (settings) => ({
    ...rateOptions('vp9', settings),
    'cpu-used': presetOf('vp9', settings),
    'row-mt': '1',
    deadline: 'good',
    ...(settings.hasAlpha ? { 'auto-alt-ref': '0' } : {}),
  }),
  words: ({ hasAlpha }): Record<string, string> => (hasAlpha ? { alpha_mode: '1' } : {}),
};
