import { distanceOf } from '../../jxlDistance.ts';
import type { CodecWriter } from './codec.ts';
import { yuvLayout } from './yuv.ts';

/** Frames, disposal and blending are chosen by the library for the fewest bytes. */
export const apng: CodecWriter = {
  encoder: 'apng',
  layout: ({ sample, hasAlpha }) =>
    sample === 'u8' ? (hasAlpha ? 'rgba' : 'rgb24') : hasAlpha ? 'rgba64be' : 'rgb48be',
  options: () => ({ pred: 'mixed', compression_level: '9' }),
};

export const webpanim: CodecWriter = {
  encoder: 'libwebp_anim',
  layout: () => 'bgra',
  options: ({ video }) => ({
    lossless: video.lossless ? '1' : '0',
    // Of lossless files it is how hard they are pressed.
    quality: String(video.lossless ? 75 : video.quality),
    compression_level: '4',
  }),
};

export const jxlanim: CodecWriter = {
  encoder: 'libjxl_anim',
  layout: ({ sample, hasAlpha }) =>
    sample === 'u8' ? (hasAlpha ? 'rgba' : 'rgb24') : hasAlpha ? 'rgba64le' : 'rgb48le',
  options: ({ video }) => ({ distance: String(video.lossless ? 0 : distanceOf(video.quality)), effort: '5' }),
};

/** The greatest quantiser step of AV1, of which a quality of 1 takes the most and 100 none. */
const coarsest = 63;

export const avifanim: CodecWriter = {
  encoder: 'libsvtav1',
  layout: (settings) => yuvLayout('avifanim', settings),
  options: ({ video }) => ({
    crf: String(Math.max(1, Math.round((coarsest * (100 - video.quality)) / 99))),
    preset: '5',
    'svtav1-params': 'rc=0',
  }),
};
