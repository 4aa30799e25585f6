import type { StillRecord } from '../record.ts';
import type { WriteSettings } from '../settings.ts';

const lossy: readonly string[] = ['PXR24', 'B44', 'B44A', 'DWAA', 'DWAB'];
const hasLevel = ({ exrCompression }: WriteSettings) => exrCompression === 'DWAA' || exrCompression === 'DWAB';
const deflates = ({ exrCompression }: WriteSettings) => exrCompression === 'ZIP' || exrCompression === 'ZIPS';

export const exr = {
  words: 'OpenEXR',
  endings: ['exr'],
  reads: ['f16', 'f32'],
  usual: {
    alpha: { value: 'premultiplied', detail: 'OpenEXR defines colour as premultiplied' },
    transfer: { value: 'linear', detail: 'OpenEXR defines colour as linear' },
    primaries: { value: 'bt709', detail: 'OpenEXR without chromaticities means BT.709' },
  },
  writes: {
    samples: ['f16', 'f32'],
    alpha: true,
    alphaRule: 'premultiplied',
    lossless: true,
    light: true,
    told: {
      colour: { transfers: ['linear'], primaries: ['bt709', 'p3', 'bt2020', 'acescg'] },
      rate: true,
      timecode: true,
      pixelAspect: true,
      attributes: true,
      texts: true,
    },
    settings: (write) => [
      'exrCompression',
      ...(deflates(write) ? (['effort'] as const) : []),
      ...(hasLevel(write) ? (['dwaLevel'] as const) : []),
    ],
    compression: (write) =>
      hasLevel(write)
        ? `${write.exrCompression} level ${write.dwaLevel}`
        : `${write.exrCompression}${deflates(write) ? ` effort ${write.effort}` : ''}`,
    compressedAs: ({ exrCompression }) => exrCompression,
    lossy: ({ exrCompression }) => (lossy.includes(exrCompression) ? `${exrCompression} compression` : undefined),
  },
  documented: {
    read: 'half, float, whole numbers; every compression; scanlines, tiles, parts; a chosen layer, whatever its channels are called; luminance with chroma; no deep pixels',
    written: 'half, float; every compression, level of DWAA and DWAB',
    colour: 'linear; chromaticities',
    rate: 'yes',
    pixelAspect: 'yes',
    profile: 'no',
  },
} as const satisfies StillRecord;
