import type { CodecId } from '@shale/core';
import { apng, avifanim, jxlanim, webpanim } from './animations.ts';
import { av1 } from './av1.ts';
import type { CodecWriter } from './codec.ts';
import { ffv1 } from './ffv1.ts';
import { h264 } from './h264.ts';
import { h265 } from './h265.ts';
import { mpeg2 } from './mpeg2.ts';
import { pngmov } from './pngmov.ts';
import { prores422, prores4444 } from './prores.ts';
import { vc3 } from './vc3.ts';
import { vp9 } from './vp9.ts';

/** Codecs that the library writes; the others are written by ourselves. */
type LibraryCodec = Exclude<CodecId, 'gif' | 'lottie' | 'sheet'>;

/** How every codec of core/formats is written: one that is not here does not compile. */
const codecWriters: Record<LibraryCodec, CodecWriter> = {
  h264,
  h265,
  prores422,
  prores4444,
  vc3,
  mpeg2,
  vp9,
  av1,
  ffv1,
  pngmov,
  apng,
  webpanim,
  jxlanim,
  avifanim,
};

/** How a codec is written by the library. @throws Error for one that is not */
export function writerOf(format: CodecId): CodecWriter {
  const writer = (codecWriters as Partial<Record<CodecId, CodecWriter>>)[format];
  if (!writer) throw new Error(`${format} is not written by the library`);
  return writer;
}
