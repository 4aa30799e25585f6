import { chromaOf, codecs, keyDistanceOf, type CodecId } from '@shale/core';
import { deep, type CodecSettings } from './codec.ts';

/** The layout of a codec whose record says how densely colour may be kept. */
export const yuvLayout = (codec: CodecId, { video, sample, hasAlpha }: CodecSettings): string =>
  `yuv${hasAlpha ? 'a' : ''}${chromaOf(codec, video)!.replaceAll(':', '')}p${deep(sample)}`;

/** Quality, where that decides, and the longest distance of keys: what codecs by rate have in common. */
export function rateOptions(codec: 'h264' | 'h265' | 'vp9' | 'av1', { video, rate }: CodecSettings) {
  const { crf } = codecs[codec];
  const options: Record<string, string> = { g: String(keyDistanceOf(video, rate)) };
  if (video.control === 'quality') options.crf = String(Math.min(crf.most, video.crf ?? crf.start));
  return options;
}

/** The library's preset for a speed. */
export const presetOf = (codec: 'h264' | 'h265' | 'vp9' | 'av1', { video }: CodecSettings): string =>
  codecs[codec].presets[video.speed]!;
