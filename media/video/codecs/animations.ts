import type { CodecWriter } from './codec.ts';

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
