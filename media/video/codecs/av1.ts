import type { CodecWriter } from './codec.ts';
import { presetOf, rateOptions, yuvLayout } from './yuv.ts';

// The library reports on itself at length: 1 is errors alone.
process.env.SVT_LOG ??= '1';

export const av1: CodecWriter = {
  encoder: 'libsvtav1',
  layout: (settings) => yuvLayout('av1', settings),
  options: (settings) => ({
    ...rateOptions('av1', settings),
    preset: presetOf('av1', settings),
    'svtav1-params': settings.video.control === 'quality' ? 'rc=0' : 'rc=1',
  }),
};
