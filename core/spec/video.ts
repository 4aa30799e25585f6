import { writesAlpha, type AlphaOut } from '../pixels/recipe.ts';
import { z } from 'zod';
import { fieldsSchema } from '../numbering/clipFacts.ts';
import { rateSchema, type Rate } from '../timing/rate.ts';
import { beside } from '../pixels/picture.ts';
import { codecRecord, firstEnding, isVideoFormat, type Format } from '../formats/index.ts';
import { hasQuality, type Container } from '../formats/record.ts';
import { videoFieldSchemas, type VideoCase } from '../formats/videoFields.ts';

/** How a clip is taken apart. */
export const clipSpecSchema = z
  .object({
    /** What becomes of pictures whose lines belong to two moments. */
    fields: fieldsSchema.default('keep'),
    /** Every coded picture once, or the one that stands on the screen at each frame of a constant rate. */
    timing: z.enum(['every-picture', 'constant-rate']).default('every-picture'),
    /** That rate; null takes the declared one. */
    rate: rateSchema.nullable().default(null),
  })
  .strict();
export type ClipSpec = z.infer<typeof clipSpecSchema>;

/** How a video is written. */
export const videoSchema = z
  .object({
    ...videoFieldSchemas,
    /** How much of all that may be given up for the limit is, where a try was chosen: 0 nothing to 1 all. Null lets a search find it. */
    given: z.number().min(0).max(1).nullable().default(null),
    name: z.string().min(1).max(200).default('{stem}.{ext}'),
  })
  .strict();
export type VideoSpec = z.infer<typeof videoSchema>;

/** What is heard. */
export const soundSchema = z
  .object({
    /** The clip's own where it has one, none, or a file of a root. */
    from: z.union([z.enum(['own', 'none']), beside]).default('own'),
    /** Frames of the result by which it begins later than the picture; below 0 it begins within. */
    offset: z.int().min(-10_000_000).max(10_000_000).default(0),
    /** Samples of the sound itself by which it begins later still; below 0 earlier. */
    later: z.int().min(-1_000_000_000).max(1_000_000_000).default(0),
    /** AAC for H.264 and H.265 or PCM; WebM takes Opus and Matroska FLAC whatever is said. */
    codec: z.enum(['aac', 'pcm']).default('aac'),
    /** Kilobits a second of AAC and Opus. */
    bitrate: z.int().min(16).max(1024).default(192),
    /** Which of several streams of sound, from 1; null takes the one that a player would. */
    stream: z.int().min(1).max(64).nullable().default(null),
    /** Bits of a sample of PCM and WAV: 24 for a source of more than 16, else 16; or as said. */
    depth: z.enum(['source', '16', '24', 'float']).default('source'),
    /** For stills: the clip's sound is taken out beside them as WAV. */
    beside: z.boolean().default(false),
  })
  .strict();
export type SoundSpec = z.infer<typeof soundSchema>;

/** The container that a video goes into. */
export function containerOf(format: Format, { container }: Pick<VideoSpec, 'container'>): Container {
  const { containers } = codecRecord(format)!;
  return containers.includes(container) ? container : containers[0];
}

/** Whether a codec's sound may be AAC: others take what their container has. */
export const takesAac = (format: Format): boolean => format === 'h264' || format === 'h265';

/** What the sound of a video is coded in: WebM takes Opus and Matroska FLAC whatever is said. */
export function soundCodecOf(
  format: Format,
  video: Pick<VideoSpec, 'container'>,
  { codec }: Pick<SoundSpec, 'codec'>,
): 'aac' | 'pcm' | 'opus' | 'flac' {
  const container = containerOf(format, video);
  if (container === 'webm') return 'opus';
  if (container === 'mkv') return 'flac';
  return takesAac(format) ? codec : 'pcm';
}

/** The ending of what a spec writes. */
export const endingOf = ({
  write,
  video,
}: {
  write: { format: Format };
  video: Pick<VideoSpec, 'container'>;
}): string => (isVideoFormat(write.format) ? containerOf(write.format, video) : firstEnding(write.format));

/** How colour is kept against light by what is chosen; undefined where the codec decides. */
export function chromaOf(format: Format, { chroma }: Pick<VideoSpec, 'chroma'>): VideoSpec['chroma'] | undefined {
  const may = codecRecord(format)?.chroma;
  return may && (may.includes(chroma) ? chroma : may[0]);
}

/** How colour is kept against light, whoever decides it; undefined where it is kept as densely. */
export const keptChroma = (format: Format, video: Pick<VideoSpec, 'chroma'>): VideoSpec['chroma'] | undefined =>
  chromaOf(format, video) ?? codecRecord(format)?.ownChroma;

/** Which sides of a picture have to be even: where two pixels share a colour sample, and the codec has no way around it. */
export function needsEven(format: Format, video: Pick<VideoSpec, 'chroma'>): { width: boolean; height: boolean } {
  const chroma = codecRecord(format)?.oddSides ? undefined : keptChroma(format, video);
  return { width: chroma === '4:2:0' || chroma === '4:2:2', height: chroma === '4:2:0' };
}

/** What the form of a video knows beside its fields. */
export const videoCase = ({ format, alpha }: { format: Format; alpha: AlphaOut }, video: VideoSpec): VideoCase => ({
  codec: codecRecord(format)!,
  control: video.control,
  container: containerOf(format, video),
  hasAlpha: writesAlpha(alpha),
  dither: video.dither,
  lossless: video.lossless,
  limit: video.limit,
  even: needsEven(format, video),
});

/** Whether every sample of a video is kept. */
export function isLosslessVideo(format: Format, { lossless }: Pick<VideoSpec, 'lossless'>): boolean {
  const { controls } = codecRecord(format)!;
  return controls === 'lossless' || (controls === 'either' && lossless);
}

/** Whether a quality of 1 to 100 decides a video's size. */
export const isByQuality = (format: Format, video: Pick<VideoSpec, 'lossless'>): boolean =>
  hasQuality(codecRecord(format)!, video.lossless);

/** Whether one file holds moving pictures that may be played again and are never heard. */
export const isAnimationFormat = (format: Format): boolean => codecRecord(format)?.animation !== undefined;

/** The most frames from one key to the next: as said, or two seconds. */
export const keyDistanceOf = ({ keyDistance }: Pick<VideoSpec, 'keyDistance'>, rate: Rate): number =>
  keyDistance ?? Math.max(1, Math.round((2 * rate.num) / rate.den));

/** Pictures of a piece, at the least: what is lost at most where a video is stopped. */
const leastPiece = 240;

/**
 * Pictures of a piece of a video that is encoded piece by piece, so that it can go on after the last whole one; whole groups
 * between keys. Null where it is encoded in one: the codec counts through, or a bitrate is shared out over the whole.
 */
export function pieceLength(format: Format, video: VideoSpec, rate: Rate): number | null {
  const { joins, controls } = codecRecord(format)!;
  if (!joins) return null;
  if (controls !== 'rate') return leastPiece;
  if (video.control === 'bitrate' || video.maxBitrate !== null) return null;
  const keys = keyDistanceOf(video, rate);
  return keys * Math.ceil(leastPiece / keys);
}

/** The setting by which a video's size is decided, in a few words. */
export function videoWords(format: Format, video: VideoSpec): string {
  const rules = codecRecord(format)!;
  const limit = rules.animation && video.limit !== null ? `, at most ${video.limit.toLocaleString('en-GB')} bytes` : '';
  if (isLosslessVideo(format, video)) return `lossless${limit}`;
  if (rules.controls === 'palette')
    return `${video.colours} colours${video.dither === 'none' ? '' : ', dithered'}${limit}`;
  const mixed = rules.animation?.mixes && video.mixed ? ' or lossless' : '';
  if (isByQuality(format, video)) return `quality ${video.quality}${mixed}${limit}`;
  if (rules.controls === 'profile') return rules.profile!;
  const most = video.maxBitrate ? `, at most ${video.maxBitrate}` : '';
  const amount =
    video.control === 'quality'
      ? `${rules.crf!.words?.toLowerCase() ?? 'quality'} ${Math.min(rules.crf!.most, video.crf ?? rules.crf!.start)}${most && `${most} kb/s`}`
      : `${video.bitrate} kb/s${most}${video.passes === 2 && rules.twoPasses ? ' in two passes' : ''}`;
  return `${amount}, ${chromaOf(format, video)}`;
}
