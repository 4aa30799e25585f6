import { deep, type CodecWriter } from './codec.ts';

export const vc3: CodecWriter = {
  encoder: 'dnxhd',
  layout: ({ sample }) => `yuv422p${deep(sample)}`,
  // The profiles of any size, by the library's names.
  options: ({ sample }) => ({ profile: sample === 'u8' ? 'dnxhr_hq' : 'dnxhr_hqx' }),
};
