import { apng } from './codecs/apng.ts';
import { avifanim } from './codecs/avifanim.ts';
import { av1 } from './codecs/av1.ts';
import { ffv1 } from './codecs/ffv1.ts';
import { gif as gifCodec } from './codecs/gif.ts';
import { h264 } from './codecs/h264.ts';
import { h265 } from './codecs/h265.ts';
import { jxlanim } from './codecs/jxlanim.ts';
import { lottie } from './codecs/lottie.ts';
import { mpeg2 } from './codecs/mpeg2.ts';
import { pngmov } from './codecs/pngmov.ts';
import { prores422 } from './codecs/prores422.ts';
import { prores4444 } from './codecs/prores4444.ts';
import { sheet } from './codecs/sheet.ts';
import { vc3 } from './codecs/vc3.ts';
import { vp9 } from './codecs/vp9.ts';
import { webpanim } from './codecs/webpanim.ts';
import type { CodecRecord, StillRecord, Usuals, WrittenFormat } from './record.ts';
import { avif } from './stills/avif.ts';
import { bmp } from './stills/bmp.ts';
import { cin } from './stills/cin.ts';
import { dpx } from './stills/dpx.ts';
import { exr } from './stills/exr.ts';
import { gif } from './stills/gif.ts';
import { jpeg } from './stills/jpeg.ts';
import { jxl } from './stills/jxl.ts';
import { lottie as lottieStill } from './stills/lottie.ts';
import { pam } from './stills/pam.ts';
import { pfm } from './stills/pfm.ts';
import { png } from './stills/png.ts';
import { pnm } from './stills/pnm.ts';
import { sheet as sheetStill } from './stills/sheet.ts';
import { tga } from './stills/tga.ts';
import { tiff } from './stills/tiff.ts';
import { webp } from './stills/webp.ts';

/** Every still format, by the id that specs and facts use, in the order in which they are offered. */
export const stills = {
  png,
  tiff,
  jpeg,
  tga,
  exr,
  dpx,
  webp,
  jxl,
  bmp,
  pnm,
  pam,
  pfm,
  gif,
  avif,
  cin,
  lottie: lottieStill,
  sheet: sheetStill,
};
export type StillId = keyof typeof stills;

/** Every codec that is written, in the order in which they are offered. */
export const codecs = {
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
  gif: gifCodec,
  apng,
  webpanim,
  jxlanim,
  avifanim,
  lottie,
  sheet,
};
export type CodecId = keyof typeof codecs;

/** The still formats that are written. */
export type WrittenStillId = {
  [K in StillId]: (typeof stills)[K] extends { writes: object } ? K : never;
}[StillId];

/** What is written, still or video. */
export type Format = WrittenStillId | CodecId;

const isWritten = (id: StillId): id is WrittenStillId => 'writes' in stills[id];

export const pictureFormats = (Object.keys(stills) as StillId[]).filter(isWritten);
export const videoFormats = Object.keys(codecs) as CodecId[];

/** The record of a still format by its id; undefined for any other word. */
export const stillRecord = (id: string): StillRecord | undefined =>
  Object.hasOwn(stills, id) ? stills[id as StillId] : undefined;

/** The record of a codec; undefined for a still format. */
export const codecRecord = (format: Format): CodecRecord | undefined =>
  Object.hasOwn(codecs, format) ? codecs[format as CodecId] : undefined;

export const isVideoFormat = (format: Format): format is CodecId => codecRecord(format) !== undefined;

/** What a written still format compresses by. */
export const stillWrites = (format: WrittenStillId): NonNullable<StillRecord['writes']> => stills[format].writes;

/** What is written of a format. */
export const writtenOf = (format: Format): WrittenFormat =>
  isVideoFormat(format) ? codecs[format].writes : stills[format].writes;

/** Codecs that clips are read in and that are written under another id or not at all, by the library's names. */
const readWords: Record<string, string> = {
  dnxhd: 'VC-3',
  hevc: 'H.265',
  mpeg1video: 'MPEG-1',
  mpeg2video: 'MPEG-2',
  mpeg4: 'MPEG-4',
  mjpeg: 'Motion JPEG',
  prores: 'ProRes',
  rawvideo: 'uncompressed',
  theora: 'Theora',
};

/** A format as the interface writes it; an unknown id in capitals. */
export const formatWords = (id: string): string =>
  stillRecord(id)?.words ??
  (Object.hasOwn(codecs, id) ? codecs[id as CodecId].words : (readWords[id] ?? id.toUpperCase()));

/** The ending of a still's file, or of a video's in its first container. */
export const firstEnding = (format: Format): string =>
  isVideoFormat(format) ? codecs[format].containers[0] : stills[format].endings[0];

/** Codecs of clips that are read, whose standard says how alpha is meant; all others say it, or it is asked for. */
const readCodecs: Record<string, Usuals> = {
  vp9: { alpha: { value: 'straight', detail: 'default for WebM with alpha' } },
  'vpx-vp9': { alpha: { value: 'straight', detail: 'default for WebM with alpha' } },
};

/** What holds of a file of a format, or of a clip of a codec, where it says nothing. */
export const usualsOf = (format: string): Usuals => stillRecord(format)?.usual ?? readCodecs[format] ?? {};
