import type { CodecWriter } from './codec.ts';
import { presetOf, rateOptions, yuvLayout } from './yuv.ts';

export const h265: CodecWriter = {
  encoder: 'libx265',
  layout: (settings) => yuvLayout('h265', settings),
  options: (settings) => ({
    ...rateOptions('h265', settings),
    preset: presetOf('h265', settings),
    'x265-params': [
      'log-level=none',
      ...(settings.pass ? [`pass=${settings.pass.number}`, `stats=${settings.pass.log}`] : []),
    ].join(':'),
  }),
  // The tag with the codec's header apart from the data: some players know no other.
  tag: 'hvc1',
};
