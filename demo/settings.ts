import type { WriteSettings } from '@shale/media';

/** How the demo writes its stills. */
export const plainSettings: WriteSettings = {
  transfer: 'srgb',
  alpha: 'straight',
  effort: 3,
  quality: 88,
  exrCompression: 'ZIP',
  tiffCompression: 'deflate',
};
