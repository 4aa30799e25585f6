import type { CodecWriter } from './codec.ts';
import { presetOf, rateOptions, yuvLayout } from './yuv.ts';

export const h264: CodecWriter = {
  encoder: 'libx264',
  layout: (settings) => yuvLayout('h264', settings),
  options: (settings) => ({
    ...rateOptions('h264', settings),
    preset: presetOf('h264', settings),
    ...(settings.pass ? { 'x264-params': `pass=${settings.pass.number}:stats=${settings.pass.log}` } : {}),
  }),
};
