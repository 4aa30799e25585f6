import { z } from 'zod';
import { findingCodes } from './findings/codes.ts';
import { rateSchema } from '../timing/rate.ts';
import { clipFactsSchema } from './clipFacts.ts';
import { coverageCount, covers, frameAt, frameNumber, frameRangeSchema, type FrameRange } from './ranges.ts';
import { frameName } from './pattern.ts';

export const patternSchema = z.object({ prefix: z.string(), padding: z.int().min(1).max(20), suffix: z.string() });
export const irregularSchema = z.object({ frame: frameNumber, name: z.string() });

/** How a sample is stored: unsigned integers of 8 to 16 bits, half float, float. */
export const sampleSchema = z.enum(['u8', 'u10', 'u12', 'u16', 'f16', 'f32']);
export type SampleFormat = z.infer<typeof sampleSchema>;

/** A length of time as an exact fraction of seconds. */
export const secondsSchema = z.object({ num: z.int().min(0), den: z.int().min(1) });

/** What a header says of a picture or a clip, read without decoding it (but for a clip's count). */
export const factsSchema = z.object({
  /** Picture size in pixels. */
  width: z.int().min(1),
  height: z.int().min(1),
  /** The format's id, such as `png` or `exr`; for a clip the codec's name. */
  format: z.string(),
  sample: sampleSchema,
  /** Channel names in the file's order: R G B A, Y, or an EXR's own. */
  channels: z.array(z.string()),
  hasAlpha: z.boolean(),
  /** Where the file says how its alpha is meant (TIFF's extra samples). */
  alphaSays: z.enum(['straight', 'premultiplied']).optional(),
  /** Where the file names its transfer: `srgb`, `linear`, `bt709`, `film-log`, `gamma-...`. */
  transfer: z.string().optional(),
  /** Where the file names its primaries: `bt709`, `p3`, `bt2020`, `acescg`, or as it writes them. */
  primaries: z.string().optional(),
  /** Where the file names its rate. */
  rate: rateSchema.optional(),
  /** Of the first frame that was read, as SMPTE ST 12-1 writes it. */
  timecode: z.string().optional(),
  /** Width to height of a pixel, where the file says one. */
  pixelAspect: secondsSchema.optional(),
  /** How the picture asks to be shown, as TIFF's field 274 and EXIF number it; absent where it is upright as stored. */
  orientation: z.int().min(2).max(8).optional(),
  /** Texts that the first file carries beside its picture, by what they are called: owner, project, keycode. */
  texts: z.array(z.tuple([z.string(), z.string()])).optional(),
  /** Every channel as an OpenEXR file calls it, those of further parts with the part's name and a dot before. */
  stored: z.array(z.string()).optional(),
  /** Where the pixels are, against what is shown, where that is not just there (OpenEXR's data window); of the first frame. */
  window: z.object({ left: z.int(), top: z.int(), width: z.int().min(1), height: z.int().min(1) }).optional(),
  /** Layers beside the main picture, by name: OpenEXR parts and channel prefixes. */
  layers: z.array(z.string()).optional(),
  /** How many frames the file says its sequence has (DPX). */
  sequenceLength: z.int().optional(),
  /** The format's compression by its own name, such as DWAA. */
  compression: z.string().optional(),
  /** Clips: exact length in seconds, and the stream's own count of frames. */
  seconds: secondsSchema.optional(),
  frames: z.int().optional(),
  /** Pictures of an animation in a still format, where there are several. */
  pictures: z.int().optional(),
  /** Clips of video. */
  clip: clipFactsSchema.optional(),
  /** What else is worth showing, as label and text. */
  more: z.array(z.tuple([z.string(), z.string()])).default([]),
});
export type Facts = z.infer<typeof factsSchema>;

export const severitySchema = z.enum(['note', 'doubt', 'fault']);
export type Severity = z.infer<typeof severitySchema>;

/** Something worth knowing about a source. */
export const findingSchema = z.object({
  code: z.enum(findingCodes),
  severity: severitySchema,
  /** One plain sentence. */
  sentence: z.string(),
  /** A few words for a table's cell. */
  short: z.string(),
  /** The frames it touches, as ranges; absent where it touches the whole source. */
  frames: z.array(frameRangeSchema).optional(),
  /** Other sources of the folder that it speaks of, by name. */
  names: z.array(z.string()).optional(),
  /** What mends it, as a sentence. */
  mend: z.string().optional(),
  /** Why a person has set it aside, in their words. It stays listed, but asks for nothing any more. */
  setAside: z.string().optional(),
});
export type Finding = z.infer<typeof findingSchema>;

/** One numbered sequence, clip, still or sound, as a scan found it. */
export const sourceSchema = z.object({
  kind: z.enum(['sequence', 'clip', 'still', 'sound']),
  /** Below the root, with `/`, empty for the root itself. */
  folder: z.string(),
  /** For a sequence its name with the number as `#`; else the file's name. */
  name: z.string(),
  /** Sequences only. */
  pattern: patternSchema.optional(),
  /** Frame numbers that exist; a clip has 0 to its count less 1, a still and a sound none. */
  coverage: z.array(frameRangeSchema),
  irregular: z.array(irregularSchema),
  doubled: z.array(irregularSchema),
  /** Set where names write their numbers in hexadecimal; `irregular` has those that differ from the decimal. */
  hexadecimal: z.literal(true).optional(),
  /** Files that make it. */
  files: z.int(),
  bytes: z.int(),
  /** Latest modification, milliseconds since 1970. */
  modified: z.number(),
  /** What tells its files from others of the same names (`stampOf`); absent where nothing was listed. */
  stamp: z.string().optional(),
  /** Mean bytes of a frame in equal parts of first..last, at most 1,024 parts; a part without a frame is 0. */
  weights: z.array(z.int()),
  /** What the header of one frame says; absent where none could be read. */
  facts: factsSchema.optional(),
  /** A sound's length and layout. */
  sound: z.object({ seconds: secondsSchema.optional(), more: z.array(z.tuple([z.string(), z.string()])) }).optional(),
  /** Sounds that lie beside a sequence or clip and may belong to it, with their lengths. */
  beside: z.array(z.object({ name: z.string(), seconds: secondsSchema })).optional(),
  /** What versions of one thing have in common: the path with its version as `v#`; and this one's version. */
  family: z.string().optional(),
  version: z.int().optional(),
  /** How its files last differed from the scan before, in files, and when that was seen, milliseconds since 1970. */
  change: z.object({ at: z.number(), added: z.int(), edited: z.int(), removed: z.int() }).optional(),
  findings: z.array(findingSchema),
  /** Frames that were decoded whole since their files last changed; absent where none was. */
  checked: z.int().min(1).optional(),
});
export type Source = z.infer<typeof sourceSchema>;

/** Whether a file of a source changed so lately that more may come. */
export const isBeingWritten = ({ findings }: Pick<Source, 'findings'>): boolean =>
  findings.some(({ code }) => code === 'still-writing');

/** A file of a still format that holds several pictures, as a GIF may. */
export const isAnimation = ({ kind, facts }: Pick<Source, 'kind' | 'facts'>): boolean =>
  kind === 'clip' && (facts?.pictures ?? 1) > 1;

/** A clip of video whose pictures can be read. */
export const isVideo = ({ kind, facts }: Pick<Source, 'kind' | 'facts'>): boolean =>
  kind === 'clip' && facts?.clip !== undefined;

/** Whether a source has frames that can be stepped through one by one, and converted. */
export const hasFrames = ({ kind }: Pick<Source, 'kind'>): boolean => kind === 'sequence' || kind === 'clip';

/** Whether a source is a sound or has one. */
export const hasSound = ({ kind, facts }: Pick<Source, 'kind' | 'facts'>): boolean =>
  kind === 'sound' || facts?.clip?.sound !== undefined;

/** Whether sources of the kind have pictures that can be converted. */
export const isConvertible = ({ kind }: Pick<Source, 'kind'>): boolean => kind !== 'sound';

/** Whether a finding asks for a look: a doubt or a fault that nobody has set aside. */
export const asksForLook = ({ severity, setAside }: Finding): boolean => severity !== 'note' && setAside === undefined;

/** How many frames a source has. A still has one. */
export const frameCount = (source: Pick<Source, 'kind' | 'coverage'>): number =>
  source.kind === 'still' ? 1 : coverageCount(source.coverage);

/**
 * The file that holds a frame, as a path below the root; undefined where that frame is missing.
 * A still's and a clip's file is the same for every frame.
 */
export function fileOfFrame(
  source: Pick<Source, 'folder' | 'name' | 'pattern' | 'coverage' | 'irregular'>,
  frame: number,
): string | undefined {
  const inFolder = (name: string) => (source.folder === '' ? name : `${source.folder}/${name}`);
  if (!source.pattern) return inFolder(source.name);
  if (!covers(source.coverage, frame)) return undefined;
  return inFolder(oddNames(source.irregular).get(frame) ?? frameName(source.pattern, frame));
}

/** Names by frame of each list that was asked for: a plan asks for every frame of the same one. */
const namesOf = new WeakMap<Source['irregular'], ReadonlyMap<number, string>>();

function oddNames(irregular: Source['irregular']): ReadonlyMap<number, string> {
  let names = namesOf.get(irregular);
  if (!names) {
    // Of two that stand for one frame the first counts.
    names = new Map(irregular.map(({ frame, name }) => [frame, name] as const).reverse());
    namesOf.set(irregular, names);
  }
  return names;
}

/** First and last frame number; undefined where there is no frame. */
export function frameSpan(coverage: readonly FrameRange[]): { first: number; last: number } | undefined {
  if (coverage.length === 0) return undefined;
  return { first: coverage[0]!.first, last: coverage[coverage.length - 1]!.last };
}

/** Evenly spread frames of a coverage, ends included, at most `count`. */
export function sampleFrames(coverage: readonly FrameRange[], count: number): number[] {
  const total = coverageCount(coverage);
  const take = Math.min(count, total);
  return Array.from({ length: take }, (_, index) =>
    frameAt(coverage, take === 1 ? 0 : Math.round((index * (total - 1)) / (take - 1)))!,
  );
}
