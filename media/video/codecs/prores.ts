import type { CodecWriter } from './codec.ts';

const vendor = 'shal';

export const prores422: CodecWriter = {
  encoder: 'prores_ks',
  layout: () => 'yuv422p10le',
  options: () => ({ profile: 'hq', vendor }),
};

export const prores4444: CodecWriter = {
  encoder: 'prores_ks',
  layout: ({ hasAlpha }) => (hasAlpha ? 'yuva444p10le' : 'yuv444p10le'),
  options: ({ hasAlpha }) => ({ profile: '4444', alpha_bits: hasAlpha ? '16' : '0', vendor }),
};
