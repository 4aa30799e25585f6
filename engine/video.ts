import { rm, stat } from 'node:fs/promises';
import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { ClipReader, VideoWriter, type VideoSettings } from '@shale/media';
import {
  addCounts,
  aspectAfter,
  crop,
  formatRules,
  greyToColour,
  isBlank,
  needsEven,
  noCounts,
  repeatEdge,
  resultsOf,
  ShaleError,
  timecodeAfter,
  codecRecord,
  isVideoFormat,
  type Image,
  type PixelCounts,
  type Plan,
  type PlanRow,
  type ReadFile,
  type Written,
} from '@shale/core';
import { flush, flushFolder, isFullDisk, publish, writeError } from './files.ts';
import { FrameMaker, temporaryName, type Places } from './frame.ts';
import { soundUnder, titleCount } from './sound.ts';
import { nothingExpected, type Expected } from './stamps.ts';
import { holdTarget } from './target.ts';

/** A video to make. */
export interface VideoWork {
  plan: Plan;
  places: Places;
  job: string;
  /** What its files are to be. */
  expected?: Expected;
  /** It takes the place of the file that has its name. */
  again?: boolean;
}

/** Told while a video is made. */
export interface VideoProgress {
  /** Pictures that went in, over all passes, of so many. */
  done: number;
  of: number;
  bytes: number;
}

/** Pictures that are read and worked ahead of the encoder. */
const ahead = 3;

/** Pictures of a lossy video that are held against what went in. */
const compared = 5;

/** A picture whose sides the codec takes: a line is added, the last one again, or cut off. */
export function evenSided(image: Image, { spec }: Pick<Plan, 'spec'>): Image {
  const even = needsEven(spec.write.format, spec.video);
  const width = image.width + (even.width && image.width % 2 === 1 ? 1 : 0);
  const height = image.height + (even.height && image.height % 2 === 1 ? 1 : 0);
  if (width === image.width && height === image.height) return image;
  if (spec.video.oddSize === 'crop')
    return crop(image, {
      left: 0,
      top: 0,
      width: image.width - (width - image.width),
      height: image.height - (height - image.height),
    });
  return repeatEdge(image, { width, height });
}

/** What the writer is told of a plan's pictures. @throws Error for a plan of stills */
export function videoSettings(plan: Plan, image: Image): VideoSettings {
  const { spec, recipe, rate, declaration } = plan;
  const { write, video } = spec;
  const titles = titleCount(plan);
  // What is seen before the first picture is earlier than it.
  const timecode =
    video.timecode === null || titles === 0 ? video.timecode : timecodeAfter(video.timecode, -titles, rate!);
  if (!isVideoFormat(write.format)) throw new Error(`${write.format} is no video`);
  return {
    format: write.format,
    video: { ...video, timecode },
    width: image.width,
    height: image.height,
    sample: write.sample,
    hasAlpha: image.channels === 4,
    rate: rate!,
    transfer: write.transfer,
    primaries: recipe?.to.primaries ?? declaration.primaries.value ?? 'bt709',
    pixelAspect: recipe ? aspectAfter(recipe.from.pixelAspect, recipe.picture) : { num: 1, den: 1 },
  };
}

/** A result as the encoder takes it: in colour, with even sides. */
export async function filmPicture(
  maker: FrameMaker,
  plan: Plan,
  row: PlanRow,
): Promise<{ image: Image; counts: PixelCounts; files: ReadFile[] }> {
  const { image, counts, files } = await maker.picture(row);
  return { image: evenSided(greyToColour(image), plan), counts, files };
}

interface Encoded {
  counts: PixelCounts;
  /** Of each picture, where the video is lossless. */
  digests: string[];
  /** Some of the pictures that went in, by their place, where it is not. */
  kept: Map<number, Image>;
  settings: VideoSettings;
  /** Files of single frames that it was made of. */
  files: ReadFile[];
  /** Bitrate of the pictures, kb/s. */
  kilobits: number;
}

/** What is encoded, and into what. */
interface Encoding {
  plan: Plan;
  places: Places;
  rows: readonly PlanRow[];
  path: string;
  withSound: boolean;
  expected?: Expected;
  pass?: VideoSettings['pass'];
  /** In place of the spec's, kb/s. */
  bitrate?: number;
}

const digestOf = ({ data }: Image): string =>
  createHash('sha256')
    .update(Buffer.from(data.buffer, data.byteOffset, data.byteLength))
    .digest('base64');

/**
 * Encodes rows into a file, in order; while one is encoded the next are read and worked.
 * @param path one that does not exist
 * @returns undefined where it was stopped
 */
export async function encodeRows(
  { plan, places, rows, path, withSound, expected, pass, bitrate }: Encoding,
  onPicture: (bytes: number) => void,
  signal?: AbortSignal,
): Promise<Encoded | undefined> {
  const maker = new FrameMaker(plan, places, 'video', expected);
  const isLossless = codecRecord(plan.spec.write.format)!.controls === 'lossless';
  const keep = new Set(
    Array.from({ length: compared }, (_, at) => Math.round((at * (rows.length - 1)) / (compared - 1))),
  );
  const encoded: Encoded = {
    counts: noCounts(),
    digests: [],
    kept: new Map(),
    settings: undefined as never,
    files: [],
    kilobits: 0,
  };
  const files = new Map<string, ReadFile>();
  const coming: ReturnType<typeof filmPicture>[] = [];
  let begun = 0;
  let writer: VideoWriter | undefined;
  const begin = () => {
    const next = filmPicture(maker, plan, rows[begun]!);
    // What fails ahead is told when its turn comes.
    next.catch(() => undefined);
    coming.push(next);
    begun += 1;
  };
  try {
    for (let at = 0; at < rows.length; at += 1) {
      if (signal?.aborted) return undefined;
      while (begun < rows.length && coming.length < ahead) begin();
      const { image, counts, files: read } = await coming.shift()!;
      for (const one of read) files.set(one.file, one);
      if (!writer) {
        const sound = withSound ? soundUnder(plan, places, rows.length) : undefined;
        const settings = videoSettings(plan, image);
        encoded.settings = { ...settings, ...(sound ? { sound } : {}), ...(pass ? { pass } : {}) };
        if (bitrate !== undefined) encoded.settings.video = { ...settings.video, bitrate };
        writer = await VideoWriter.open(path, encoded.settings);
      }
      addCounts(encoded.counts, counts);
      if (plan.spec.readBack && isLossless) encoded.digests.push(digestOf(image));
      else if (keep.has(at)) encoded.kept.set(at, image);
      await writer.add(image);
      onPicture(writer.bytes);
    }
    await writer?.finish();
    const { num, den } = plan.rate!;
    encoded.files = [...files.values()];
    encoded.kilobits = ((writer?.bytes ?? 0) * 8 * num) / (1000 * den * rows.length);
    return encoded;
  } finally {
    await Promise.allSettled(coming);
    await writer?.close();
    await maker.close();
  }
}

/** What is known of a video that was read again. */
interface Checked {
  check: Written['check'];
  most: number;
  psnr: number | null;
}

/** Reads a written video again: every picture is decoded and counted, and held against what went in where that is possible. */
async function readBack(
  path: string,
  final: string,
  count: number,
  encoded: Encoded,
  lossless: boolean,
  signal?: AbortSignal,
): Promise<Checked> {
  const refuse = (why: string) =>
    new ShaleError({
      code: 'read-back-failed',
      fact: `${basename(final)} was written, but reading it back failed: ${why}. It was not kept.`,
      wayOut: 'See whether disk and memory are sound, and run it again.',
      subject: final,
    });
  const reader = await ClipReader.open(path, { threads: 2 });
  try {
    if (reader.count !== count) throw refuse(`it holds ${reader.count} pictures, and ${count} went in`);
    let most = 0;
    let error = 0;
    let samples = 0;
    for (let at = 0; at < count && !signal?.aborted; at += 1) {
      const wanted = encoded.kept.get(at);
      if (!lossless && !wanted) {
        await reader.frameAt(at, async () => undefined);
        continue;
      }
      const image = await reader.picture(at);
      if (lossless) {
        if (digestOf(image) !== encoded.digests[at]) throw refuse(`picture ${at} is not what went in`);
        continue;
      }
      const data = wanted!.data;
      for (let sample = 0; sample < data.length; sample += 1) {
        const difference = Math.abs(data[sample]! - image.data[sample]!);
        if (difference > most) most = difference;
        error += difference * difference;
      }
      samples += data.length;
    }
    if (lossless) return { check: 'identical', most: 0, psnr: null };
    const peak = encoded.kept.values().next().value?.sample === 'u8' ? 255 : 65_535;
    return {
      check: 'differs',
      most,
      psnr: samples > 0 && error > 0 ? -10 * Math.log10(error / samples / peak ** 2) : null,
    };
  } catch (error) {
    if (error instanceof ShaleError && error.code === 'read-back-failed') throw error;
    throw refuse((error as Error).message);
  } finally {
    await reader.close();
  }
}

const codeOf = (error: unknown): string => (error instanceof ShaleError ? error.code : '');

async function fileDigest(path: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const piece of createReadStream(path)) hash.update(piece as Buffer);
  return hash.digest('hex');
}

/** Results at the end of which every pixel is alike, counted from the end; at most `most` are looked at. */
export async function blankEnd(plan: Plan, places: Places, most = 120): Promise<number> {
  const maker = new FrameMaker(plan, places, 'blank');
  try {
    let blank = 0;
    for (let at = plan.frames - 1; at >= 0 && blank < most; at -= 1) {
      const [row] = resultsOf(plan, at, at + 1);
      if (row!.kind === 'slate' || row!.kind === 'title') break;
      if (!isBlank((await maker.picture(row!)).image)) break;
      blank += 1;
    }
    // All alike from end to end is no end that somebody forgot.
    return blank >= plan.frames ? 0 : blank;
  } finally {
    await maker.close();
  }
}

/** A bitrate counts as reached to within this share of it. */
const reached = 0.05;

/** Encodings after which a bitrate that is missed still stays missed, and is told in the receipt. */
const mostTries = 3;

/** Whether a bitrate decides a video's size; a spec may hold one that its codec does not look at. */
const asksBitrate = ({ spec: { write, video } }: Plan): boolean =>
  codecRecord(write.format)!.controls === 'rate' && video.control === 'bitrate';

/** Encodes into a path: in two passes where they are asked for; again by a corrected bitrate where an encoder misses the one that is asked for. */
async function encodeWhole(
  work: Pick<Encoding, 'plan' | 'places' | 'rows' | 'path' | 'expected'>,
  log: string,
  onProgress: (progress: VideoProgress) => void,
  signal?: AbortSignal,
): Promise<Encoded | undefined> {
  const { rows, path } = work;
  const { write, video } = work.plan.spec;
  const { twoPasses, aims } = codecRecord(write.format)!;
  const byBitrate = asksBitrate(work.plan);
  const twice = byBitrate && twoPasses === true && video.passes === 2;
  const tries = byBitrate && aims === true ? mostTries : 1;
  let of = rows.length * (twice || tries > 1 ? 2 : 1);
  let done = 0;
  const onPicture = (bytes: number) => onProgress({ done: (done += 1), of: (of = Math.max(of, done)), bytes });
  await rm(path, { force: true });
  if (twice) {
    if (!(await encodeRows({ ...work, withSound: false, pass: { number: 1, log } }, onPicture, signal)))
      return undefined;
    await rm(path, { force: true });
  }
  let { bitrate } = video;
  let before = 0;
  for (let attempt = 1; ; attempt += 1) {
    const pass = twice ? { pass: { number: 2 as const, log } } : {};
    const encoded = await encodeRows({ ...work, withSound: true, bitrate, ...pass }, onPicture, signal);
    if (!encoded || signal?.aborted) return undefined;
    const share = encoded.kilobits / video.bitrate;
    const next = Math.round(Math.min(video.maxBitrate ?? Infinity, Math.max(10, bitrate / share)));
    // Pictures that need no more, or cannot do with less, stay what they are.
    const moved = Math.abs(encoded.kilobits - before) > before / 100;
    if (attempt >= tries || Math.abs(share - 1) <= reached || next === bitrate || !moved) return encoded;
    [bitrate, before] = [next, encoded.kilobits];
    await rm(path);
  }
}

/**
 * Makes a plan's video: encoded under a temporary name, flushed, read back, then named. Nothing of it is left where it fails or is
 * stopped. @returns undefined where it was stopped
 * @throws ShaleError of a picture that cannot be had, an encoder that refuses, a disk that is full
 */
export async function makeVideo(
  { plan, places, job, expected = nothingExpected, again = false }: VideoWork,
  onProgress: (progress: VideoProgress) => void,
  signal?: AbortSignal,
): Promise<Written | undefined> {
  const { spec } = plan;
  const all = resultsOf(plan, 0, plan.frames);
  const rows = spec.video.blankEnd === 'write' ? all : all.slice(0, all.length - (await endOf(plan, places)));
  const final = join(places.target, all[0]!.to);
  const folder = holdTarget(places.target, all[0]!.to, expected);
  const temporary = join(folder.path, temporaryName(job, 0));
  // Where no folder's name can be taken for an option of the codec.
  const log = join(tmpdir(), `shale-${process.pid}-${job}.log`);
  try {
    const encoded = await encodeWhole({ plan, places, rows, path: temporary, expected }, log, onProgress, signal);
    if (!encoded || signal?.aborted) return undefined;
    await flush(temporary);
    const lossless = codecRecord(spec.write.format)!.controls === 'lossless';
    const checked: Checked = spec.readBack
      ? await readBack(temporary, final, rows.length, encoded, lossless, signal)
      : { check: 'none', most: 0, psnr: null };
    if (signal?.aborted) return undefined;
    const bytes = (await stat(temporary)).size;
    const sha256 = await fileDigest(temporary);
    await publish(temporary, join(folder.path, basename(final)), again || spec.existing === 'replace');
    await flushFolder(folder);
    const { mtimeMs: modified } = await stat(join(folder.path, basename(final)));
    const { width, height, rate, sound } = encoded.settings;
    return {
      index: 0,
      frame: rows[0]!.frame,
      sourceFrame: rows[0]!.sourceFrame,
      name: basename(final),
      bytes,
      sha256,
      modified,
      sources: encoded.files,
      check: checked.check,
      most: checked.most,
      counts: encoded.counts,
      video: {
        frames: rows.length,
        width,
        height,
        rate,
        format: formatRules[spec.write.format].words,
        sound: sound !== undefined,
        psnr: checked.psnr,
        kilobits: asksBitrate(plan) ? Math.round(encoded.kilobits) : null,
      },
    };
  } catch (error) {
    if (codeOf(error) === 'read-back-failed' && (await isFullDisk(folder.path)))
      throw writeError(final, Object.assign(new Error('full'), { code: 'ENOSPC' }));
    throw error instanceof ShaleError ? error : writeError(final, error);
  } finally {
    for (const path of [temporary, log, `${log}.mbtree`, `${log}.cutree`]) await rm(path, { force: true });
    folder.close();
  }
}

/** Frames to end before. @throws ShaleError `blank-end` where the spec wants to be asked */
async function endOf(plan: Plan, places: Places): Promise<number> {
  const blank = await blankEnd(plan, places);
  if (blank === 0 || plan.spec.video.blankEnd === 'cut') return blank;
  const last = resultsOf(plan, plan.frames - 1, plan.frames)[0]!.sourceFrame;
  throw new ShaleError({
    code: 'blank-end',
    fact: `The last ${blank === 1 ? 'frame is' : `${blank} frames are`} of one colour throughout, up to frame ${last}.`,
    wayOut: 'Choose the frames before them, or say that they are wanted: "blank end" of the video.',
    subject: 'video.blankEnd',
  });
}
