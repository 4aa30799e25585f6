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
    const [nan, glow, ...outsideBy] = exrAddon.divide(
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
    for (let channel = 0; channel < 3; channel += 1) {
      counts.low[channel]! += outsideBy[channel]!;
      counts.high[channel]! += outsideBy[3 + channel]!;
    }
    counts.nan += nan;
    counts.glow += glow;
    return true;
  },
};
