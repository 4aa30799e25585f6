import { z } from 'zod';
import { parseBytes } from '../limit/bytes.ts';
import { ditherNames } from '../pixels/indexed.ts';
import { schemasOf, type Field } from './field.ts';
import { floorField } from './floor.ts';
import { hasQuality, type CodecRecord } from './record.ts';

/** What the form of a video knows beside a field. */
export interface VideoCase {
  codec: CodecRecord;
  control: 'quality' | 'bitrate';
  /** Into which file it goes, and which sides have to be even. */
  container: string;
  /** Whether alpha is written, and not left out. */
  hasAlpha: boolean;
  dither: string;
  lossless: boolean;
  /** Bytes that an animation may have. */
  limit: number | null;
  even: { width: boolean; height: boolean };
}

const field = <S extends z.ZodType>(value: Field<S, VideoCase>): Field<S, VideoCase> => value;
const byRate = ({ codec }: VideoCase): boolean => codec.controls === 'rate';
const byPalette = ({ codec }: VideoCase): boolean => codec.controls === 'palette';
const byQuality = ({ codec, lossless }: VideoCase): boolean => hasQuality(codec, lossless);
const isSheet = ({ codec }: Pick<VideoCase, 'codec'>): boolean => codec.animation?.isSheet === true;
const isAnimation = ({ codec }: VideoCase): boolean => codec.animation !== undefined;
/** Whether something of an animation may be given up for its limit. */
const gives = (at: VideoCase): boolean => isAnimation(at) && at.limit !== null;
const byBitrate = (at: VideoCase): boolean => byRate(at) && at.control === 'bitrate';
const only = (words: Record<string, string>, some: readonly string[]): Record<string, string> =>
  Object.fromEntries(Object.entries(words).filter(([value]) => some.includes(value)));

/** `0, smallest (veryslow)`, and so on: the codec libraries' presets in order. */
const speedWords = (presets: readonly string[]): Record<string, string> =>
  Object.fromEntries(
    presets.map((preset, at) => {
      const words = at === 0 ? '0, smallest' : at === 8 ? '8, fastest' : String(at);
      return [at, /^\d/.test(preset) ? words : `${words} (${preset})`];
    }),
  );

/** How a video is written, in the order of the form. What a codec does not know is left aside. */
export const videoFields = {
  /** H.264 and H.265 go into MP4 or MOV, VC-3 and MPEG-2 into MXF or MOV; ProRes and PNG into MOV, VP9 and AV1 into WebM, FFV1 into Matroska. */
  container: field({
    schema: z.enum(['mp4', 'mov', 'mxf', 'png', 'webp']).default('mp4'),
    label: ({ codec }) => (isSheet({ codec }) ? 'Picture' : 'Container'),
    form: ({ codec }) => ({
      kind: 'choice',
      words: only({ mp4: 'MP4', mov: 'MOV', mxf: 'MXF', png: 'PNG', webp: 'WebP' }, codec.containers),
    }),
    applies: ({ codec }) => codec.containers.length > 1,
  }),
  /** One quality throughout, or so many bits a second. */
  control: field({
    schema: z.enum(['quality', 'bitrate']).default('quality'),
    label: 'Size is set by',
    form: { kind: 'choice', words: { quality: 'one quality', bitrate: 'a bitrate' } },
    applies: byRate,
  }),
  /** Constant rate factor, 0 to 63, small is good (51 is the most of H.264 and H.265); null takes the codec's starting value. */
  crf: field({
    schema: z.int().min(0).max(63).nullable().default(null),
    label: ({ codec }) =>
      `${codec.crf!.words ?? 'Quality (CRF)'}, ${codec.crf!.words ? 1 : 0} best to ${codec.crf!.most}`,
    form: ({ codec }) => ({ kind: 'whole', none: `${codec.crf!.start}, the start`, most: codec.crf!.most }),
    applies: (at) => byRate(at) && at.control === 'quality',
  }),
  /** Kilobits (1,000 bits) a second to reach, and at most; null sets no most. */
  bitrate: field({
    schema: z.int().min(10).max(2_000_000).default(20_000),
    label: 'Kilobits a second',
    form: { kind: 'whole' },
    applies: byBitrate,
  }),
  maxBitrate: field({
    schema: z.int().min(10).max(2_000_000).nullable().default(null),
    label: 'Kilobits a second, at most',
    form: { kind: 'whole', none: 'no limit' },
    applies: byRate,
  }),
  /** Two passes look at all of it before they spend bits. Of `bitrate` only. */
  passes: field({
    schema: z.union([z.literal(1), z.literal(2)]).default(1),
    label: 'Passes',
    form: { kind: 'choice', words: { 1: 'one', 2: 'two' } },
    applies: (at) => byBitrate(at) && at.codec.twoPasses === true,
  }),
  /** 0 slowest and smallest, 8 fastest: the codec libraries' presets in order. */
  speed: field({
    schema: z.int().min(0).max(8).default(3),
    label: 'Speed',
    form: ({ codec }) => ({ kind: 'choice', words: speedWords(codec.presets!) }),
    applies: (at) => byRate(at) && at.codec.presets !== undefined,
  }),
  /** The most frames from one key to the next; null takes two seconds. */
  keyDistance: field({
    schema: z.int().min(1).max(1000).nullable().default(null),
    label: 'Longest keyframe distance, frames',
    form: { kind: 'whole', none: 'two seconds' },
    applies: byRate,
  }),
  /** How densely colour is kept against light. */
  chroma: field({
    schema: z.enum(['4:2:0', '4:2:2', '4:4:4']).default('4:2:0'),
    label: 'Colour',
    form: ({ codec }) => ({
      kind: 'choice',
      words: only({ '4:2:0': '4:2:0, a quarter', '4:2:2': '4:2:2, half', '4:4:4': '4:4:4, whole' }, codec.chroma!),
    }),
    applies: (at) => byRate(at) && at.codec.chroma !== undefined && at.codec.chroma.length > 1,
  }),
  /** Where 4:2:0 needs even sides and there are odd ones. */
  oddSize: field({
    schema: z.enum(['stop', 'pad', 'crop']).default('stop'),
    label: 'Odd sides',
    form: {
      kind: 'choice',
      words: { stop: 'stop and ask', pad: 'repeat the last line', crop: 'cut off the last line' },
    },
    applies: ({ even }) => even.width || even.height,
  }),
  /** Frames at the end of which every pixel is alike: refuse, write them, or end before them. */
  blankEnd: field({
    schema: z.enum(['stop', 'write', 'cut']).default('stop'),
    label: 'Blank frames at the end',
    form: { kind: 'choice', words: { stop: 'stop and ask', cut: 'trim', write: 'keep' } },
  }),
  /** Timecode of the first frame, `HH:MM:SS:FF`, `;` before the frames for drop-frame; null writes none. */
  timecode: field({
    schema: z.string().max(16).nullable().default(null),
    label: 'Timecode of the first frame',
    form: { kind: 'text', none: 'none', mono: true, nullable: true },
    applies: (at) => !isAnimation(at),
  }),
  /** How often an animation plays; null for ever. */
  plays: field({
    schema: z.int().min(1).max(65_535).nullable().default(null),
    label: 'Plays, times',
    form: { kind: 'whole', none: 'for ever' },
    applies: ({ codec }) => codec.animation !== undefined && !codec.animation.forEver,
  }),
  /** The most pixels of a side of a sprite sheet: what graphics cards take as one picture is 2,048 to 16,384. */
  sheetSide: field({
    schema: z.int().min(16).max(8192).default(4096),
    label: 'Sides of the sheet, pixels at most',
    form: { kind: 'whole', most: 8192 },
    applies: isSheet,
  }),
  /** Clear pixels between the frames of a sprite sheet. */
  sheetGap: field({
    schema: z.int().min(0).max(64).default(1),
    label: 'Clear pixels between frames',
    form: { kind: 'whole', most: 64 },
    applies: isSheet,
  }),
  /** Whether what is clear around a frame is cut off on the sheet. */
  sheetTrim: field({
    schema: z.boolean().default(true),
    label: 'Frames on the sheet',
    form: { kind: 'switch', on: 'trimmed to what is not clear', off: 'whole' },
    applies: (at) => isSheet(at) && at.hasAlpha,
  }),
  /** Colours of a palette, the clear one among them. */
  colours: field({
    schema: z.int().min(2).max(256).default(256),
    label: 'Colours, 2 to 256',
    form: { kind: 'whole' },
    applies: byPalette,
  }),
  /** Whether all pictures share a palette: a small file without flicker, or the nearest colours of each. */
  palette: field({
    schema: z.enum(['shared', 'each']).default('shared'),
    label: 'Palette',
    form: { kind: 'choice', words: { shared: 'one for all pictures', each: 'one for each picture' } },
    applies: byPalette,
  }),
  /** How colours are chosen: by halving the box of colours, by means of clusters, or by what the eye tells apart. */
  quantiser: field({
    schema: z.enum(['perceptual', 'k-means', 'median-cut']).default('k-means'),
    label: 'Colours chosen by',
    form: { kind: 'choice', words: { perceptual: 'perception', 'k-means': 'k-means', 'median-cut': 'median cut' } },
    applies: byPalette,
  }),
  /** How colours between those of the palette are shown: not, by a fixed pattern, or by diffusing the error. */
  dither: field({
    schema: z.enum(ditherNames).default('ordered'),
    label: 'Dither',
    form: {
      kind: 'choice',
      words: {
        none: 'none',
        ordered: 'ordered (Bayer)',
        'floyd-steinberg': 'Floyd-Steinberg',
        sierra: 'Sierra',
        'sierra-2': 'Sierra, two rows',
        'sierra-lite': 'Sierra lite',
        burkes: 'Burkes',
        atkinson: 'Atkinson',
      },
    },
    applies: byPalette,
  }),
  /** Of the dither, in per cent. */
  ditherAmount: field({
    schema: z.int().min(0).max(100).default(75),
    label: 'Amount of the dither, %',
    form: { kind: 'whole', most: 100 },
    applies: (at) => byPalette(at) && at.dither !== 'none',
  }),
  /** Pixels that change by no more than so many codes of 255 in any channel stay as they were shown. */
  tolerance: field({
    schema: z.int().min(0).max(64).default(0),
    label: 'Ignore changes up to, codes',
    form: { kind: 'whole', most: 64 },
    applies: byPalette,
  }),
  /** What becomes of half-clear pixels where a pixel is clear or not: those below a threshold are clear, or a pattern of both. */
  alphaEdge: field({
    schema: z.enum(['threshold', 'dithered']).default('threshold'),
    label: 'Soft edges',
    form: { kind: 'choice', words: { threshold: 'cut at a threshold', dithered: 'a pattern of clear and not' } },
    applies: (at) => byPalette(at) && at.hasAlpha,
  }),
  /** Alpha of 255 from which a pixel is not clear. */
  alphaFrom: field({
    schema: z.int().min(1).max(255).default(128),
    label: 'Opaque from alpha, 1 to 255',
    form: { kind: 'whole', most: 255 },
    applies: (at) => byPalette(at) && at.hasAlpha,
  }),
  /** Onto what half-clear pixels are blended: a colour as `#rrggbb`, or the opaque pixels beside each; null leaves their colour as it is. */
  edgeColour: field({
    schema: z
      .string()
      .regex(/^(#[0-9a-f]{6}|outline)$/i)
      .nullable()
      .default(null),
    label: 'Soft edges blended onto',
    form: { kind: 'text', none: 'nothing; #rrggbb, or outline', mono: true, nullable: true },
    applies: (at) => byPalette(at) && at.hasAlpha,
  }),
  /** Whether every sample is kept, where the codec can do both. */
  lossless: field({
    schema: z.boolean().default(false),
    label: 'Samples',
    form: { kind: 'switch', on: 'kept, lossless', off: 'lossy' },
    applies: ({ codec }) => codec.controls === 'either',
  }),
  /** 1 to 100, 100 best. */
  quality: field({
    schema: z.int().min(1).max(100).default(80),
    label: 'Quality, 1 to 100 best',
    form: { kind: 'whole', most: 100 },
    applies: byQuality,
  }),
  /** Of an animated WebP by quality: pictures that are smaller lossless are kept so. */
  mixed: field({
    schema: z.boolean().default(false),
    label: 'Pictures smaller as lossless',
    form: { kind: 'switch', on: 'kept lossless', off: 'by quality too' },
    applies: (at) => at.codec.animation?.mixes === true && !at.lossless,
  }),
  /** Bytes that an animation may have: what may be given up is, as far as it has to be; null sets no limit. */
  limit: field({
    schema: z.int().min(1).max(1e12).nullable().default(null),
    label: 'Bytes, at most',
    form: {
      kind: 'text',
      none: 'no limit, as 256 KB',
      mono: true,
      nullable: true,
      print: (bytes: number) => bytes.toLocaleString('en-GB'),
      read: parseBytes,
    },
    applies: isAnimation,
  }),
  /** How far each may be given up for the limit; null keeps it. */
  giveSize: field({
    schema: floorField(1, 100, { floor: 20, weight: 1 }),
    label: 'Sides down to, %',
    form: { kind: 'floor' },
    applies: gives,
  }),
  giveColours: field({
    schema: floorField(2, 256, { floor: 32, weight: 1 }),
    label: 'Colours down to',
    form: { kind: 'floor' },
    applies: (at) => gives(at) && byPalette(at),
  }),
  giveDither: field({
    schema: floorField(0, 100, null),
    label: 'Dither down to, %',
    form: { kind: 'floor' },
    applies: (at) => gives(at) && byPalette(at) && at.dither !== 'none',
  }),
  giveQuality: field({
    schema: floorField(1, 100, { floor: 40, weight: 1 }),
    label: 'Quality down to',
    form: { kind: 'floor' },
    applies: (at) => gives(at) && byQuality(at),
  }),
  giveRate: field({
    schema: floorField(1, 300, null),
    label: 'Rate down to, fps',
    form: { kind: 'floor' },
    applies: gives,
  }),
  giveLength: field({
    schema: floorField(1, 100, null),
    label: 'Length down to, % from its start',
    form: { kind: 'floor' },
    applies: gives,
  }),
  /** Whether a player can begin before the whole file is there (MP4 and MOV). */
  fastStart: field({
    schema: z.boolean().default(true),
    label: 'Playback can start before the download is complete',
    form: { kind: 'mark' },
    applies: ({ container }) => container === 'mp4' || container === 'mov',
  }),
} as const;
export type VideoFieldName = keyof typeof videoFields;

/** The schemas of all fields of a video. */
export const videoFieldSchemas = schemasOf(videoFields);
