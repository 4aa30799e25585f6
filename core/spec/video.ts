import { z } from 'zod';
import { fieldsSchema } from '../numbering/clipFacts.ts';
import { rateSchema, type Rate } from '../timing/rate.ts';
import { beside } from '../pixels/picture.ts';
import { codecRecord, firstEnding, isVideoFormat, type Format } from '../formats/index.ts';
import type { Container } from '../formats/record.ts';

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

/** How a video is written. What a codec does not know is left aside. */
export const videoSchema = z
  .object({
    /** H.264 and H.265 go into either; ProRes and PNG into MOV, VP9 and AV1 into WebM, FFV1 into Matroska. */
    container: z.enum(['mp4', 'mov']).default('mp4'),
    /** One quality throughout, or so many bits a second. */
    control: z.enum(['quality', 'bitrate']).default('quality'),
    /** Constant rate factor, 0 to 63, small is good (51 is the most of H.264 and H.265); null takes the codec's starting value. */
    crf: z.int().min(0).max(63).nullable().default(null),
    /** Kilobits (1,000 bits) a second to reach, and at most; null sets no most. */
    bitrate: z.int().min(10).max(2_000_000).default(20_000),
    maxBitrate: z.int().min(10).max(2_000_000).nullable().default(null),
    /** Two passes look at all of it before they spend bits. Of `bitrate` only. */
    passes: z.union([z.literal(1), z.literal(2)]).default(1),
    /** 0 slowest and smallest, 8 fastest: the codec libraries' presets in order. */
    speed: z.int().min(0).max(8).default(3),
    /** The most frames from one key to the next; null takes two seconds. */
    keyDistance: z.int().min(1).max(1000).nullable().default(null),
    /** How densely colour is kept against light. */
    chroma: z.enum(['4:2:0', '4:2:2', '4:4:4']).default('4:2:0'),
    /** Whether a player can begin before the whole file is there (MP4 and MOV). */
    fastStart: z.boolean().default(true),
    /** Where 4:2:0 needs even sides and there are odd ones. */
    oddSize: z.enum(['stop', 'pad', 'crop']).default('stop'),
    /** Timecode of the first frame, `HH:MM:SS:FF`, `;` before the frames for drop-frame; null writes none. */
    timecode: z.string().max(16).nullable().default(null),
    /** Frames at the end of which every pixel is alike: refuse, write them, or end before them. */
    blankEnd: z.enum(['stop', 'write', 'cut']).default('stop'),
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
    /** AAC for H.264 and H.265 or PCM; WebM takes Opus and Matroska FLAC whatever is said. */
    codec: z.enum(['aac', 'pcm']).default('aac'),
    /** Kilobits a second of AAC and Opus. */
    bitrate: z.int().min(16).max(1024).default(192),
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

/** Whether both sides of a picture have to be even: two pixels share a colour sample. */
export function needsEven(format: Format, video: Pick<VideoSpec, 'chroma'>): { width: boolean; height: boolean } {
  const chroma = keptChroma(format, video);
  return { width: chroma === '4:2:0' || chroma === '4:2:2', height: chroma === '4:2:0' };
}

/** The most frames from one key to the next: as said, or two seconds. */
export const keyDistanceOf = ({ keyDistance }: Pick<VideoSpec, 'keyDistance'>, rate: Rate): number =>
  keyDistance ?? Math.max(1, Math.round((2 * rate.num) / rate.den));

/** The setting by which a video's size is decided, in a few words. */
export function videoWords(format: Format, video: VideoSpec): string {
  const rules = codecRecord(format)!;
  if (rules.controls === 'lossless') return 'lossless';
  if (rules.controls === 'profile') return rules.profile!;
  const amount =
    video.control === 'quality'
      ? `quality ${Math.min(rules.crf!.most, video.crf ?? rules.crf!.start)}`
      : `${video.bitrate} kb/s${video.maxBitrate ? `, at most ${video.maxBitrate}` : ''}${video.passes === 2 && rules.twoPasses ? ' in two passes' : ''}`;
  return `${amount}, ${chromaOf(format, video)}`;
}
