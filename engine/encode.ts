import { createHash } from 'node:crypto';
import { doneWith, type Made, type MovingWriter, type VideoSettings } from '@shale/media';
import {
  addCounts,
  aspectAfter,
  codecRecord,
  crop,
  greyToColour,
  isLosslessVideo,
  isVideoFormat,
  needsEven,
  noCounts,
  repeatEdge,
  timecodeAfter,
  titleCount,
  type CodecId,
  type Image,
  type PixelCounts,
  type Plan,
  type PlanRow,
  type ReadFile,
} from '@shale/core';
import { FrameMaker, type Places } from './frame.ts';
import type { Expected } from './stamps.ts';

/** Pictures that are read and worked ahead of the encoder. */
const ahead = 3;

/** Pictures of a lossy video that are held against what went in: so many at the least, and as many as fit into so many bytes. */
const leastCompared = 5;
const comparedBytes = 128 << 20;

/** Which pictures of so many are held against what went in, evenly spread, the first and the last among them. */
function comparedOf(count: number, { data }: Image): Set<number> {
  const many = Math.min(count, Math.max(leastCompared, Math.floor(comparedBytes / data.byteLength)));
  return new Set(Array.from({ length: many }, (_, at) => Math.round((at * (count - 1)) / Math.max(1, many - 1))));
}

/** A picture whose sides the codec takes: a line is added, the last one again, or cut off. */
function evenSided(image: Image, { spec }: Pick<Plan, 'spec'>): Image {
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
function videoSettings(plan: Plan, image: Image): VideoSettings {
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
async function filmPicture(
  maker: FrameMaker,
  plan: Plan,
  row: PlanRow,
): Promise<{ image: Image; counts: PixelCounts; files: ReadFile[]; isShared: boolean }> {
  const { image, counts, files, isShared } = await maker.picture(row);
  return { image: evenSided(greyToColour(image), plan), counts, files, isShared };
}

/** What is known of pictures that were encoded. */
export interface Encoded {
  counts: PixelCounts;
  /** Of each picture, where the video is lossless. */
  digests: string[];
  /** Some of the pictures that went in, by their place in the whole, where it is not. */
  kept: Map<number, () => Promise<Image>>;
  settings: VideoSettings;
  /** Files of single frames that it was made of. */
  files: ReadFile[];
  /** Of packets. */
  bytes: number;
  /** What a file beside the video says, where there is one. */
  beside?: string | undefined;
}

/** What an encoded video is opened by, to be read again. */
export const madeOf = ({ settings, beside }: Encoded): Made => ({ ...settings, beside });

/** What is known before the first picture; its settings follow with that. */
export const nothingEncoded = (): Encoded => ({
  counts: noCounts(),
  digests: [],
  kept: new Map(),
  settings: undefined as never,
  files: [],
  bytes: 0,
});

/** What is encoded, and into what. */
export interface Encoding {
  plan: Plan;
  places: Places;
  rows: readonly PlanRow[];
  /** Which of how many pictures of the video the first is; the rows are all of it where this is absent. */
  among?: { from: number; of: number };
  expected?: Expected;
  /** Opens what the pictures go into, once the first is there. */
  open: (settings: VideoSettings) => Promise<MovingWriter>;
  /** What the writer is told beside what the plan says. */
  settings?: (usual: VideoSettings) => VideoSettings;
}

/**
 * A picture as a format can keep it: colour multiplied by alpha where it forgets that of clear pixels, and alpha as a channel even
 * where all is opaque, so that what was read compares with what went in.
 */
export function comparable(image: Image, format: CodecId): Image {
  if (!codecRecord(format)?.animation?.forgetsClear || image.channels < 3) return image;
  const { width, height, channels, data } = image;
  const alike = new Uint8Array(width * height * 4);
  for (let from = 0, to = 0; from < data.length; from += channels, to += 4) {
    const alpha = channels === 4 ? data[from + 3]! : 255;
    for (let channel = 0; channel < 3; channel += 1)
      alike[to + channel] = Math.round((data[from + channel]! * alpha) / 255);
    alike[to + 3] = alpha;
  }
  return { width, height, channels: 4, sample: 'u8', data: alike };
}

/** A digest of a picture's samples. */
export const pictureDigest = ({ data }: Image): string =>
  createHash('sha256')
    .update(Buffer.from(data.buffer, data.byteOffset, data.byteLength))
    .digest('base64');

/**
 * Encodes rows, in order; while one is encoded the next are read and worked.
 * @returns undefined where it was stopped
 */
export async function encodeRows(
  { plan, places, rows, among = { from: 0, of: rows.length }, expected, open, settings = (usual) => usual }: Encoding,
  onPicture: (bytes: number) => void = () => undefined,
  signal?: AbortSignal,
): Promise<Encoded | undefined> {
  const maker = new FrameMaker(plan, places, 'video', expected);
  const isLossless = isLosslessVideo(plan.spec.write.format, plan.spec.video);
  let keep: ReadonlySet<number> = new Set();
  const encoded = nothingEncoded();
  const files = new Map<string, ReadFile>();
  const coming: ReturnType<typeof filmPicture>[] = [];
  let begun = 0;
  let writer: MovingWriter | undefined;
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
      const { image, counts, files: read, isShared } = await coming.shift()!;
      for (const one of read) files.set(one.file, one);
      if (!writer) {
        encoded.settings = settings(videoSettings(plan, image));
        writer = await open(encoded.settings);
        if (plan.spec.readBack && !isLossless) keep = comparedOf(among.of, image);
      }
      addCounts(encoded.counts, counts);
      if (plan.spec.readBack && isLossless)
        encoded.digests.push(pictureDigest(comparable(image, encoded.settings.format)));
      const isKept = keep.has(among.from + at);
      if (isKept) encoded.kept.set(among.from + at, async () => image);
      await writer.add(image);
      if (writer.forgets && !isKept && !isShared) doneWith(image);
      onPicture(writer.bytes);
    }
    await writer?.finish();
    encoded.files = [...files.values()];
    encoded.bytes = writer?.bytes ?? 0;
    encoded.beside = writer?.beside;
    return encoded;
  } finally {
    await Promise.allSettled(coming);
    await writer?.close();
    await maker.close();
  }
}
