import type { Kernel } from '@shale/core';
import { pixelAddon } from './addon.ts';

/** Core's passes of resampling, compiled. */
export const compiledPass: NonNullable<Kernel['pass']> = ({ width, height, stride, data }, { first, weights }, way) => {
  const isAcross = way === 'across';
  const out = new Float32Array((isAcross ? first.length * height : width * first.length) * stride);
  pixelAddon.resample(data, out, width, height, stride, first, weights, isAcross);
  return out;
};
