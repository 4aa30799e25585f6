import { constants } from 'node:fs';
import { copyFile, readFile, rm, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { LRUCache } from 'lru-cache';
import {
  carryChannels,
  compareQuickly,
  compiledKernel,
  doneWith,
  fitLayout,
  givenSample,
  readStill,
  similarQuickly,
  withBytes,
  writeStill,
  type Carried,
  type CarriedChannel,
  type WriteSettings,
} from '@shale/media';
import {
  areAlike,
  aspectAfter,
  fileOfFrame,
  fitToShape,
  isOfShape,
  isVideo,
  isVideoFormat,
  makeConverter,
  noCounts,
  placeOf,
  problemOf,
  ShaleError,
  shotSource,
  sizeOfPlan,
  slate,
  type Converter,
  type Difference,
  type Format,
  type Image,
  type Others,
  type Plan,
  type PlanRow,
  type PixelCounts,
  type ReadFile,
  type Recipe,
  type SampleFormat,
  type Written,
  writesAlpha,
} from '@shale/core';
import type { Held } from './beneath.ts';
import { burnIn, titlePicture } from './burn.ts';
import { cutShortByDisk, flush, flushFolder, publish, sha256, writeError } from './files.ts';
import type { Company } from './company.ts';
import { OtherPictures } from './otherPictures.ts';
import { shotRoot, type Places } from './places.ts';
import { SourceFiles } from './sourceFiles.ts';
import { SourcePictures } from './sourcePictures.ts';
import { keyOf, nothingExpected, type Expected, type Placed } from './stamps.ts';
import { holdTarget } from './target.ts';

export type { Places } from './places.ts';

/** Which picture of its file a row is of: a clip's frames are all in one. */
export const pictureOf = (plan: Pick<Plan, 'source' | 'shots'>, { sourceFrame, shot }: PlanRow): number =>
  shotSource(plan, shot).kind === 'clip' ? sourceFrame : 0;

/** The source picture of a row by itself, clips as the plan works their fields, frames mixed as it says. */
export const readRow = async (plan: Plan, places: Places, row: PlanRow): Promise<Image> =>
  (await new SourcePictures(plan, places, false).read(row)).image;

/** Converters that a process keeps: the spans of a job, and those of the plans that are tried before it, share their tables. */
const converters = new LRUCache<string, Converter>({ max: 6 });

/** The converter of a recipe for pictures of a sample format; the one that was not used for longest gives way. */
function converterOf(recipe: Recipe, sample: SampleFormat): Converter {
  const key = `${sample} ${JSON.stringify(recipe)}`;
  let converter = converters.get(key);
  if (!converter) converters.set(key, (converter = makeConverter(recipe, sample, compiledKernel)));
  return converter;
}

/** Turns frames of one plan into results. */
export class FrameMaker {
  private readonly files: SourceFiles;
  private readonly sources: SourcePictures;
  private readonly seconds: OtherPictures;
  /** The folder that results go into, once the first does. */
  private target: Held | undefined;

  constructor(
    private readonly plan: Plan,
    private readonly places: Places,
    /** Marks the temporary files of one job. */
    private readonly job: string,
    private readonly expected: Expected = nothingExpected,
    /** Others that are made of the same pictures. */
    company?: Company,
  ) {
    this.files = new SourceFiles(expected, places.follows);
    this.sources = new SourcePictures(plan, places, true, this.files, company);
    this.seconds = new OtherPictures(plan, places, this.files);
  }

  /** The picture of a row as it will be written, what was lost on the way, and how it is to be written. */
  async picture(row: PlanRow): Promise<Worked> {
    const { spec, shots } = this.plan;
    const recipe = row.shot === 0 ? this.plan.recipe : shots[row.shot - 1]!.recipe;
    if (!recipe) throw new Error('the plan has no recipe');
    if (row.kind === 'slate' || row.kind === 'title')
      return {
        image: this.slate(row),
        counts: noCounts(),
        settings: this.settings(recipe, {}),
        files: [],
        isShared: false,
      };
    const { image: read, carried, files, isShared } = await this.sources.read(row);
    const source = this.inShape(read, recipe, row, carried.windows);
    const converter = converterOf(this.given(recipe), source.sample);
    const second = await this.seconds.of(row);
    const { image, counts } = converter(source, second.others);
    const settings = this.settings(recipe, carried);
    if (!isShared && read.data.buffer !== image.data.buffer) doneWith(read);
    return {
      image: fitLayout(burnIn(this.plan, row, image), spec.write.format),
      counts,
      settings,
      files: [...files, ...second.files],
      isShared,
    };
  }

  private slate(row: PlanRow): Image {
    const { spec } = this.plan;
    const size = sizeOfPlan(this.plan)!;
    const alpha = writesAlpha(spec.write.alpha);
    const hasAlpha = alpha && this.plan.source.facts?.hasAlpha === true;
    const { sample } = this.given(this.plan.recipe!).to;
    const channels = hasAlpha ? 4 : 3;
    return row.kind === 'title'
      ? titlePicture(this.plan, size, sample, channels)
      : slate(size, row.sourceFrame, sample, channels);
  }

  /** The recipe with the samples in which a video's encoder is given pictures. */
  private given(recipe: Recipe): Recipe {
    const { format } = this.plan.spec.write;
    if (!isVideoFormat(format)) return recipe;
    return { ...recipe, to: { ...recipe.to, sample: givenSample(format, recipe.to.sample) } };
  }

  /** Closes what it holds open. */
  async close(): Promise<void> {
    this.target?.close();
    this.target = undefined;
    await this.sources.close();
  }

  /** The pictures of second sources that go with a row. */
  async others(row: PlanRow): Promise<Others> {
    return (await this.seconds.of(row)).others;
  }

  /** A picture that has its source's size and channels, or is fitted to them where the spec says so. */
  private inShape(image: Image, { from }: Recipe, row: PlanRow, windows: Carried['windows']): Image {
    const { source, spec, window } = this.plan;
    // Where windows are kept each picture has a data window of its own: what it is shown in has to be the same.
    const shown = window === 'kept' && windows ? { ...image, ...shownSize(windows.display) } : image;
    // A layer has channels of its own.
    if (!source.facts || spec.picture.layer !== null || isOfShape(shown, source.facts)) return image;
    if (spec.mixed === 'fit') return fitToShape(image, source.facts, from);
    const { width, height, channels } = shown;
    throw new ShaleError({
      code: 'frame-differs',
      fact: `${basename(row.from!)} is ${width} x ${height} with ${channels} ${channels === 1 ? 'channel' : 'channels'}, and its source ${source.facts.width} x ${source.facts.height} with ${source.facts.channels.join(' ')}.`,
      wayOut: isVideo(source)
        ? 'Its size changes in the middle: fit such pictures, or convert each part separately.'
        : 'Scan again so that the plan includes it, and fit such pictures or leave them out.',
      subject: row.from,
    });
  }

  /** What a result says of itself: the declaration goes before what its source's file said. */
  private settings({ from, picture, to }: Recipe, { timecode, attributes, texts, windows }: Carried): WriteSettings {
    const { spec, rate } = this.plan;
    const aspect = aspectAfter(from.pixelAspect, picture);
    return {
      ...spec.write,
      primaries: to.primaries,
      rate: rate ?? undefined,
      timecode,
      pixelAspect: aspect.num === aspect.den ? undefined : aspect,
      attributes,
      texts,
      ...(this.plan.window === 'kept' ? { windows } : {}),
    };
  }

  /** Makes one result: read, worked, written under a temporary name, flushed, read back, then named. */
  async make(row: PlanRow, index: number, again = false): Promise<Written> {
    const final = join(this.places.target, row.to);
    const folder = (this.target ??= holdTarget(this.places.target, row.to, this.expected));
    const temporary = join(folder.path, temporaryName(this.job, index));
    try {
      const make = this.plan.spec.channels.length > 0 ? this.carry : this.plan.copies ? this.copy : this.convert;
      const made = await make.call(this, row, temporary, final);
      await publish(
        temporary,
        join(folder.path, basename(final)),
        again || this.plan.spec.existing === 'replace',
      ).catch((error: unknown) => {
        throw writeError(final, error);
      });
      const { mtimeMs: modified } = await stat(join(folder.path, basename(final)));
      return { index, frame: row.frame, sourceFrame: row.sourceFrame, name: basename(final), modified, ...made };
    } catch (error) {
      const told = await cutShortByDisk(error, folder.path, final);
      await rm(temporary, { force: true }).catch(() => undefined);
      throw told;
    }
  }

  /** Flushes the names of what was made: until then a power cut may take them. */
  async flushNames(): Promise<void> {
    if (this.target) await flushFolder(this.target);
  }

  private placed(row: PlanRow): Placed {
    return { root: shotRoot(this.places, row.shot), file: row.from! };
  }

  private async copy(row: PlanRow, temporary: string, final: string): Promise<Made> {
    const { value, file } = await this.files.read(this.placed(row), async (source) => {
      // A damaged source is never passed on as whole: it is read even where its bytes are copied.
      await readStill(source);
      await writing(final, async () => {
        await copyFile(source, temporary, constants.COPYFILE_EXCL | constants.COPYFILE_FICLONE);
        await flush(temporary);
      });
      return Promise.all([readFile(temporary), readFile(source)]);
    });
    const [ours, theirs] = value;
    if (!ours.equals(theirs)) throw readBackError(final, 'its bytes are not the source’s');
    return {
      bytes: ours.length,
      sha256: sha256(ours),
      check: 'identical',
      most: 0,
      counts: noCounts(),
      sources: [file],
    };
  }

  /** Channels one by one, each sample as it is in its file. */
  private async carry(row: PlanRow, temporary: string, final: string): Promise<Made> {
    const { spec } = this.plan;
    let carried: Awaited<ReturnType<FrameMaker['carryTo']>>;
    await writing(final, async () => {
      await rm(temporary, { force: true });
      carried = await this.carryTo(temporary, row);
      await flush(temporary);
    });
    const { difference, files } = carried!;
    if (difference.samples > 0 && this.isLossless) throw readBackError(final, `${difference.samples} samples differ`);
    const bytes = await readFile(temporary);
    const check = !spec.readBack ? 'none' : difference.samples === 0 ? 'identical' : 'differs';
    return {
      bytes: bytes.length,
      sha256: sha256(bytes),
      check,
      most: difference.most,
      counts: noCounts(),
      sources: files,
    };
  }

  /** Writes the channels of a row's result. @param path one that does not exist @returns how it differs once it is read back, and what was read */
  async carryTo(path: string, row: PlanRow): Promise<{ difference: Difference; files: ReadFile[] }> {
    const { spec, joined } = this.plan;
    const placed = spec.channels.map(({ from, of }): Placed => {
      const place = placeOf(spec.channels, of);
      if (place < 0) return this.placed(row);
      const { source } = joined[place]!;
      const file = fileOfFrame(source, row.sourceFrame);
      if (file !== undefined) return { root: this.places.joined![place]!, file };
      throw new ShaleError({
        code: 'frame-missing',
        fact: `${source.name} has no frame ${row.sourceFrame}, of which ${from} is to be taken.`,
        wayOut: 'Ask for it, choose other frames, or leave its channels out.',
        subject: source.name,
      });
    });
    // Each file is opened once, however many of its channels are taken.
    const once = [...new Map(placed.map((one) => [keyOf(one), one])).values()];
    return this.files.readAll(once, async (paths) => {
      const pathOf = new Map(once.map((one, at) => [keyOf(one), paths[at]!]));
      const channels = spec.channels.map(({ as, from }, at): CarriedChannel => ({
        as,
        from,
        path: pathOf.get(keyOf(placed[at]!))!,
      }));
      return { difference: await carryChannels(path, channels, spec.write, spec.readBack) };
    });
  }

  private async convert(row: PlanRow, temporary: string, final: string): Promise<Made> {
    const { spec } = this.plan;
    const { image, counts, settings, files: sources, isShared } = await this.picture(row);
    await writing(final, async () => {
      await rm(temporary, { force: true });
      await writeStill(temporary, spec.write.format, image, settings);
      await flush(temporary);
    });
    const told = await withBytes(temporary, (bytes) => ({ bytes: bytes.length, sha256: sha256(bytes) }));
    const made = { ...told, counts, sources };
    try {
      if (!spec.readBack) return { ...made, check: 'none', most: 0 };
      const back = await readBack(temporary, final, spec.write.format, settings.windows ? 'data' : 'display');
      try {
        const difference = differenceOf(image, back);
        if (!difference) throw readBackError(final, 'its size, channels or depth are not what was written');
        if (difference.samples > 0 && this.isLossless)
          throw readBackError(final, `${difference.samples} samples differ`);
        if (difference.samples === 0) return { ...made, check: 'identical', most: 0 };
        return { ...made, check: 'differs', most: difference.most, similarity: similarQuickly(image, back) };
      } finally {
        doneWith(back);
      }
    } finally {
      if (!isShared) doneWith(image);
    }
  }

  private get isLossless(): boolean {
    return !this.plan.losses.some(({ code }) => code === 'lossy-format');
  }
}

const shownSize = ([left, top, right, bottom]: [number, number, number, number]) => ({
  width: right - left + 1,
  height: bottom - top + 1,
});

type Made = Pick<Written, 'bytes' | 'sha256' | 'check' | 'most' | 'counts' | 'sources' | 'similarity'>;

/** A row's picture as it will be written. */
interface Worked {
  image: Image;
  /** What was lost on the way. */
  counts: PixelCounts;
  settings: WriteSettings;
  /** Files of single frames that it was made of. */
  files: ReadFile[];
  /** Whether others look at what it was made of, which it may be itself. */
  isShared: boolean;
}

/** The name of a result while it is not whole; hidden, so that no scan takes it for a frame. */
export const temporaryName = (job: string, index: number | 'sound'): string => `.shale-${job}-${index}.part`;

async function writing(final: string, work: () => Promise<void>): Promise<void> {
  try {
    await work();
  } catch (error) {
    throw writeError(final, error);
  }
}

const bytesOf = ({ data }: Image): Buffer => Buffer.from(data.buffer, data.byteOffset, data.byteLength);

/** {@link compareQuickly}, asked only where the bytes are not the same in one sweep, as they nearly always are. */
function differenceOf(a: Image, b: Image): Difference | undefined {
  return areAlike(a, b) && bytesOf(a).equals(bytesOf(b)) ? { samples: 0, most: 0 } : compareQuickly(a, b);
}

async function readBack(temporary: string, final: string, format: Format, window: 'display' | 'data'): Promise<Image> {
  try {
    return await readStill(temporary, { format, window });
  } catch (error) {
    const { fact } = problemOf(error);
    throw readBackError(final, fact.replaceAll(basename(temporary), 'it').replace(/\.$/, ''));
  }
}

const readBackError = (final: string, why: string): ShaleError =>
  new ShaleError({
    code: 'read-back-failed',
    fact: `${basename(final)} was written, but reading it back failed: ${why}. It was not kept.`,
    wayOut: 'Check the disk and memory, and run the frame again.',
    subject: final,
  });
