import { readFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import {
  alphaKindSchema,
  alphaOutSchema,
  codecRecord,
  declaredTransferSchema,
  formatWords,
  formatSchema,
  isAnimationFormat,
  isByQuality,
  isVideoFormat,
  oneOfFile,
  parseBytes,
  parseRate,
  parseSpec,
  primariesSchema,
  resizeSchema,
  sampleSchema,
  ShaleError,
  startingSpec,
  withFormat,
  type Declaration,
  type Source,
  type Spec,
  type Word,
} from '@shale/core';
import { givesOf } from './gives.ts';

/** What `shale convert` and `shale plan` are asked with. */
export interface ConvertOptions {
  spec?: string[];
  /** Which of a file of several specs. */
  named?: string;
  out?: string;
  /** The form of the names. */
  to?: string;
  format?: string;
  depth?: string;
  scale?: string;
  writeAlpha?: string;
  frames?: string;
  /** `fit`, or a box as 640x360+10+20. */
  crop?: string;
  quality?: string;
  /** Bytes that a small moving picture has at most. */
  limit?: string;
  /** What may be given up for it, and how far: `size=20,colours=32:2,rate=12`. */
  give?: string;
  /** Every sample kept, where a format can do both. */
  lossless?: boolean;
  /** Of a GIF's palette, and how what lies between its colours is shown. */
  colours?: string;
  dither?: string;
  side?: string;
  container?: string;
  /** How often a small moving picture plays, or `forever`. */
  plays?: string;
  /** There, and back to the second frame. */
  back?: boolean;
  /** What is done to sides that a codec cannot hold. */
  oddSize?: string;
  receiver?: string;
  rate?: string;
  alpha?: string;
  transfer?: string;
  primaries?: string;
  /** The main picture and every layer, each as a sequence of its own. */
  everyLayer?: boolean;
  /** Crops to all that is not clear in any frame. */
  fitContent?: boolean;
  /** An edit list whose cuts follow one another, of sources in and below the folder that is named. */
  edit?: string;
  /** An edit list or a table, for stills at markers. */
  markers?: string;
  /** Makes what is missing or changed. */
  onlyNew?: boolean;
  /** Leaves out sources that cannot run. */
  skip?: boolean;
  replace?: boolean;
  watch?: boolean;
  dry?: boolean;
  json?: boolean;
}

/** An option whose value is none of those that it has. */
export const unknownValue = (option: string, value: string, wayOut: string): ShaleError =>
  new ShaleError({ code: 'bad-option', fact: `--${option} ${value} is not known.`, wayOut, subject: option });

export async function readSpec(path: string, named: string | undefined): Promise<unknown> {
  const text = await readFile(path, 'utf8').catch(() => {
    throw new ShaleError({
      code: 'spec-not-found',
      fact: `There is no spec ${path}.`,
      wayOut: 'Name a JSON file; docs/specs.md shows one.',
      subject: path,
    });
  });
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw new ShaleError({
      code: 'bad-spec',
      fact: `${path} is not JSON: ${(error as Error).message}.`,
      wayOut: 'Correct it; docs/specs.md shows one.',
      subject: path,
    });
  }
  return oneOfFile(value, 'specs', path, named);
}

function choice<T extends string>(
  schema: { safeParse(value: unknown): { success: boolean; data?: T }; options: readonly T[] },
  option: string,
  value: string | undefined,
): T | undefined {
  if (value === undefined) return undefined;
  const parsed = schema.safeParse(value);
  if (parsed.success) return parsed.data;
  throw new ShaleError({
    code: 'bad-option',
    fact: `--${option} ${value} is not known.`,
    wayOut: `Use one of ${schema.options.join(', ')}.`,
    subject: option,
  });
}

/** What is declared of the sources. @throws ShaleError `bad-option` */
export function wordOf(options: ConvertOptions): Word {
  const word: Word = {};
  if (options.rate !== undefined) word.rate = parseRate(options.rate);
  const alpha = choice(alphaKindSchema, 'alpha', options.alpha);
  const transfer = choice(declaredTransferSchema, 'transfer', options.transfer);
  const primaries = choice(primariesSchema, 'primaries', options.primaries);
  return { ...word, ...(alpha && { alpha }), ...(transfer && { transfer }), ...(primaries && { primaries }) };
}

/** Depths by the words of the trade. */
const depths: Record<string, string> = { 8: 'u8', 10: 'u10', 12: 'u12', 16: 'u16', half: 'f16', float: 'f32' };

/** The specs that are asked for, before any source is known; undefined in place of one: what each source begins with. */
export async function readSpecs({ spec = [], named, format }: ConvertOptions): Promise<(Spec | undefined)[]> {
  if (spec.length > 0) return Promise.all(spec.map(async (path) => parseSpec(await readSpec(path, named))));
  if (format !== undefined) return [undefined];
  throw new ShaleError({
    code: 'bad-option',
    fact: 'No output format is given.',
    wayOut: 'Give --format, as --format png, or --spec FILE.',
    subject: 'format',
  });
}

/** A spec for one source with what the options say otherwise. @throws ShaleError `bad-option`, `bad-spec` */
export function specOf(
  given: Spec | undefined,
  source: Source,
  declaration: Declaration,
  options: ConvertOptions,
): Spec {
  let spec = given ?? startingSpec(source, declaration);
  const format = choice(formatSchema, 'format', options.format);
  if (format) spec = withFormat(spec, format);
  const write: Record<string, unknown> = { ...spec.write };
  const video: Record<string, unknown> = { ...spec.video };
  const picture: Record<string, unknown> = { ...spec.picture };
  const names: Record<string, unknown> = { ...spec.names };
  if (options.depth !== undefined) write.sample = depthOf(options.depth);
  if (options.writeAlpha !== undefined) write.alpha = choice(alphaOutSchema, 'write-alpha', options.writeAlpha);
  if (options.quality !== undefined) {
    const quality = wholeOf('quality', options.quality);
    if (!isVideoFormat(spec.write.format)) write.quality = quality;
    else if (codecRecord(spec.write.format)!.crf) Object.assign(video, { control: 'quality', crf: quality });
    else if (isByQuality(spec.write.format, { lossless: false })) video.quality = quality;
    else throw unknownValue('quality', options.quality, 'Remove it: this format has no quality.');
  }
  if (options.lossless) (isVideoFormat(spec.write.format) ? video : write).lossless = true;
  Object.assign(video, smallOf(options, spec.write.format));
  if (options.oddSize !== undefined) video.oddSize = options.oddSize;
  if (options.scale !== undefined) picture.resize = scaleOf(options.scale);
  if (options.crop !== undefined && !fitsContent(options.crop)) picture.crop = boxOf(options.crop);
  if (options.to !== undefined) nameBy(options.to, isVideoFormat(spec.write.format), names, video);
  return parseSpec({
    ...spec,
    ...{ write, video, picture, names },
    ...(options.back ? { time: { ...spec.time, back: true } } : {}),
    ...(options.frames === undefined ? {} : { frames: options.frames }),
    ...(options.replace ? { existing: 'replace' } : {}),
  });
}

/** What is said of moving pictures alone. */
function smallOf(options: ConvertOptions, format: Spec['write']['format']): Record<string, unknown> {
  const video: Record<string, unknown> = {};
  if (options.limit !== undefined) {
    if (!isAnimationFormat(format))
      throw new ShaleError({
        code: 'bad-option',
        fact: `--limit is for small moving pictures, but ${format} is not one.`,
        wayOut: 'Write gif, apng, webpanim, jxlanim, avifanim, lottie or sheet, or leave --limit out.',
        subject: 'limit',
      });
    video.limit = limitOf(options.limit);
  }
  if (options.give !== undefined) Object.assign(video, givesOf(options.give));
  if (options.colours !== undefined) video.colours = wholeOf('colours', options.colours);
  if (options.plays !== undefined) video.plays = options.plays === 'forever' ? null : wholeOf('plays', options.plays);
  if (options.dither !== undefined) video.dither = options.dither;
  if (options.side !== undefined) video.sheetSide = wholeOf('side', options.side);
  if (options.container !== undefined) {
    const may: readonly string[] = codecRecord(format)?.containers ?? [];
    if (!may.includes(options.container))
      throw unknownValue(
        'container',
        options.container,
        may.length > 0
          ? `${formatWords(format)} goes into ${may.join(' or ')}.`
          : 'It is for videos and sprite sheets.',
      );
    video.container = options.container;
  }
  return video;
}

function limitOf(text: string): number {
  try {
    return parseBytes(text);
  } catch (error) {
    throw unknownValue('limit', text, (error as ShaleError).wayOut);
  }
}

function depthOf(text: string): string {
  const sample = sampleSchema.safeParse(depths[text] ?? text);
  if (sample.success) return sample.data;
  throw unknownValue('depth', text, 'Write 8, 10, 12, 16, half or float.');
}

function wholeOf(option: string, text: string): number {
  if (/^\d{1,5}$/.test(text)) return Number(text);
  throw unknownValue(option, text, 'Write a whole number.');
}

/** `50%`, `1280x720`, `1280x`, `x720`. */
function scaleOf(text: string): unknown {
  const percent = /^(\d+(?:\.\d+)?)%$/.exec(text);
  if (percent) return resizeSchema.parse({ to: { by: 'percent', percent: Number(percent[1]) } });
  const size = /^(\d*)x(\d*)$/.exec(text);
  const [, width = '', height = ''] = size ?? [];
  if (width === '' && height === '') throw unknownValue('scale', text, 'Write 50%, 1280x720, 1280x or x720.');
  const side = (digits: string) => (digits === '' ? null : Number(digits));
  return resizeSchema.parse({ to: { by: 'size', width: side(width), height: side(height) } });
}

/** Whether a crop is worked out: `fit` to all that is not clear, `centred` with the middle where it was. */
export const fitsContent = (crop: string | undefined): boolean => crop === 'fit' || crop === 'centred';

/** `640x360+10+20`: a box of that size, so many pixels from the left and the top. */
function boxOf(text: string): unknown {
  const box = /^(\d+)x(\d+)\+(\d+)\+(\d+)$/.exec(text);
  if (!box) throw unknownValue('crop', text, 'Write fit, centred, or a box as 640x360+10+20.');
  const [width, height, left, top] = box.slice(1).map(Number);
  return { left, top, width, height };
}

/** A name: a stem, or the whole form with its fields. */
function nameBy(to: string, isVideo: boolean, names: Record<string, unknown>, video: Record<string, unknown>): void {
  const hasFields = /[{#%]/.test(to);
  if (!hasFields && !/\.[a-z0-9]{1,5}$/i.test(to)) names.stem = to;
  else if (isVideo) video.name = to;
  else names.template = /\{frame|#|%0?\d*d/.test(to) ? to : `${to}.{frame:4}.{ext}`;
}

/** Where results go: the folder that is there or is made, and what below it is filled in for each source. */
export function placeOf(out: string): { root: string; folder: string } {
  const steps = out.split('/');
  const at = steps.findIndex((step) => step.includes('{'));
  if (at < 0) return { root: resolve(out), folder: '' };
  return {
    root: resolve(steps.slice(0, at).join('/') || (out.startsWith('/') ? '/' : '.')),
    folder: steps.slice(at).join('/'),
  };
}
