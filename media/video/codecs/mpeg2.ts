import { codecs, keyDistanceOf } from '@shale/core';
import type { CodecWriter } from './codec.ts';
import { yuvLayout } from './yuv.ts';

/** The library's unit of a quantiser, FF_QP2LAMBDA. */
const lambda = 118;

export const mpeg2: CodecWriter = {
  encoder: 'mpeg2video',
  layout: (settings) => yuvLayout('mpeg2', settings),
  options: ({ video, rate }) => {
    const { start, most } = codecs.mpeg2.crf;
    const quantiser = Math.max(1, Math.min(most, video.crf ?? start));
    return {
      g: String(keyDistanceOf(video, rate)),
      ...(video.control === 'quality' ? { flags: '+qscale', global_quality: String(quantiser * lambda) } : {}),
    };
  },
};
