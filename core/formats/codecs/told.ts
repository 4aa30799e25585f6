import type { Told } from '../record.ts';

/** Videos name curve and primaries by the codes of ITU-T H.273, which has none for a film's log curve nor for AP1. */
export const toldInVideo = {
  colour: { transfers: ['srgb', 'linear', 'bt709', 'gamma-2.2', 'pq', 'hlg'], primaries: ['bt709', 'p3', 'bt2020'] },
  rate: true,
  timecode: true,
  pixelAspect: true,
} as const satisfies Told;

/** The presets of libx264 and libx265, from slowest to fastest. */
export const x26Presets = [
  'veryslow',
  'slower',
  'slow',
  'medium',
  'fast',
  'faster',
  'veryfast',
  'superfast',
  'ultrafast',
] as const;

/** Rates that MPEG-2 and MXF have a name for: others they cannot say. */
export const namedRates = ['24000/1001', '24', '25', '30000/1001', '30', '50', '60000/1001', '60'] as const;
