import type { Image, View } from '@shale/core';
import { clearShows, displayTable, gatherPlainly, type Gather } from '@shale/core/compiled.ts';
import { pixelAddon } from './addon.ts';

const none = new Float32Array(0);
const noWarnings = new Uint8Array(0);
const alphas = { none: 0, straight: 1, premultiplied: 2 } as const;

/** {@link gatherPlainly}, compiled: the same numbers for pictures that are brought to light sample by sample. */
export const gatherQuickly: Gather = (job) => {
  const { source, stored, transfer, alpha, columns, rows, lights, view } = job;
  const isFloat = source.sample === 'f32';
  if (source !== stored || (isFloat && transfer !== 'linear')) {
    gatherPlainly(job);
    return;
  }
  pixelAddon.view(
    source.data,
    source.channels,
    {
      lights: lights ?? none,
      alphas: job.alphas ?? none,
      warnings: job.warnings ?? noWarnings,
      areLight: source.sample === 'f16' && transfer === 'linear',
    },
    alphas[alpha],
    clearShows(source.sample),
    columns.into,
    columns.share,
    rows.into,
    rows.share,
    view.data,
    view.warnings,
    view.width,
  );
};

/** `showView` of core for colours looked at plainly, compiled: 8-bit sRGB with straight alpha where the view has any. */
export function displayView({ width, height, alpha, data }: View): Image {
  const channels = alpha === 'none' ? 3 : 4;
  const out = new Uint8Array(width * height * channels);
  pixelAddon.display(data, alpha === 'premultiplied', displayTable(1), channels, out);
  return { width, height, channels, sample: 'u8', data: out };
}
