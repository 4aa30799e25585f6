import { guessParts, type Kernels } from '@shale/core';
import { exrAddon } from './exr/addon.ts';

/** Core's two commonest conversions, compiled: the same tables, the same numbers, a fraction of the time. */
export const compiledKernels: Kernels = {
  narrowRgba(source, data) {
    exrAddon.narrow(source, data);
    return true;
  },
  divideRgba(source, data, { colour, alpha, outside, values, steps }, counts) {
    const { bounds, guesses } = steps;
    const [low, high, nan, glow] = exrAddon.divide(
      source,
      data,
      colour,
      alpha,
      outside,
      values,
      bounds,
      guesses,
      guessParts,
    );
    counts.low += low;
    counts.high += high;
    counts.nan += nan;
    counts.glow += glow;
    return true;
  },
};
