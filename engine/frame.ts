import { constants } from 'node:fs';
import { copyFile, readFile, rm } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { LRUCache } from 'lru-cache';
import {
  carryChannels,
  compareQuickly,
  compiledKernel,
  fitLayout,
  givenSample,
  readStill,
  writeStill,
  type Carried,
  type CarriedChannel,
  type WriteSettings,
} from '@shale/media';
import {
  aspectAfter,
  fileOfFrame,
  fitToShape,
  isOfShape,
  isVideo,
  isVideoFormat,
  makeConverter,
  noCounts,
  otherFiles,
  placeOf,
  ShaleError,
  shotSource,
  sizeOfPlan,
  slate,
  type Converter,
  type Difference,
  type Format,
  type Image,
  type OtherFile,
  type Others,
  type Plan,
  type PlanRow,
  type PixelCounts,
  type Recipe,
  type Role,
  type SampleFormat,
  type Written,
} from '@shale/core';
import { pictureOfClip } from './clips.ts';
import { burnIn, titlePicture } from './burn.ts';
import { flush, publish, sha256, writeError } from './files.ts';
import { shotRoot, type Places } from './places.ts';
import { SourcePictures } from './sourcePictures.ts';

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
  private readonly sources: SourcePictures;
  /** The picture of each second source that was read last. */
  private readonly held = new Map<Role, { path: string; picture: number; image: Promise<Image> }>();

  constructor(
    private readonly plan: Plan,
    private readonly places: Places,
    /** Marks the temporary files of one job. */
    private readonly job: string,
  ) {
    this.sources = new SourcePictures(plan, places, true);
  }

  /** The picture of a row as it will be written, what was lost on the way, and how it is to be written. */
  async picture(row: PlanRow): Promise<{ image: Image; counts: PixelCounts; settings: WriteSettings }> {
    const { spec, shots } = this.plan;
    const recipe = row.shot === 0 ? this.plan.recipe : shots[row.shot - 1]!.recipe;
    if (!recipe) throw new Error('the plan has no recipe');
    if (row.kind === 'slate' || row.kind === 'title')
      return { image: this.slate(row), counts: noCounts(), settings: this.settings(recipe, {}) };
    const { image: read, carried } = await this.sources.read(row);
    const source = this.inShape(read, recipe, row, carried.windows);
    const converter = converterOf(this.given(recipe), source.sample);
    const { image, counts } = converter(source, await this.others(row));
    const settings = this.settings(recipe, carried);
    return { image: fitLayout(burnIn(this.plan, row, image), spec.write.format), counts, settings };
  }

  private slate(row: PlanRow): Image {
    const { spec } = this.plan;
    const size = sizeOfPlan(this.plan)!;
    const alpha = spec.write.alpha === 'straight' || spec.write.alpha === 'premultiplied';
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
    await this.sources.close();
  }

  /** The pictures of second sources that go with a row; one that goes with several in a row is read once. */
  async others(row: PlanRow): Promise<Others> {
    const files = Object.entries(otherFiles(this.plan, row.sourceFrame)) as [Role, OtherFile][];
    const read = files.map(async ([role, { file, picture, clip }]) => {
      const path = join(this.places.others![role]!, file);
      let held = this.held.get(role);
      if (held?.path !== path || held.picture !== picture)
        this.held.set(
          role,
          (held = { path, picture, image: clip ? pictureOfClip(path, picture) : readStill(path, { picture }) }),
        );
      return [role, await held.image] as const;
    });
    return Object.fromEntries(await Promise.all(read));
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
        ? 'Its size changes in the middle: let such pictures be fitted, or convert each part by itself.'
        : 'Scan again so that the plan knows of it, and let such pictures be fitted or left out.',
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
  async make(row: PlanRow, index: number): Promise<Written> {
    const final = join(this.places.target, row.to);
    const temporary = join(dirname(final), temporaryName(this.job, index));
    try {
      const made =
        this.plan.spec.channels.length > 0
          ? await this.carry(row, temporary, final)
          : this.plan.copies
            ? await this.copy(row, temporary, final)
            : await this.convert(row, temporary, final);
      await publish(temporary, final, this.plan.spec.existing === 'replace').catch((error: unknown) => {
        throw writeError(final, error);
      });
      return { index, frame: row.frame, sourceFrame: row.sourceFrame, name: basename(final), ...made };
    } catch (error) {
      await rm(temporary, { force: true });
      throw error;
    }
  }

  private async copy(row: PlanRow, temporary: string, final: string): Promise<Made> {
    const source = join(shotRoot(this.places, row.shot), row.from!);
    // A damaged source is never passed on as whole: it is read even where its bytes are copied.
    await readStill(source);
    await writing(final, async () => {
      await copyFile(source, temporary, constants.COPYFILE_EXCL | constants.COPYFILE_FICLONE);
      await flush(temporary);
    });
    const [ours, theirs] = await Promise.all([readFile(temporary), readFile(source)]);
    if (!ours.equals(theirs)) throw readBackError(final, 'its bytes are not the source’s');
    return { bytes: ours.length, sha256: sha256(ours), check: 'identical', most: 0, counts: noCounts() };
  }

  /** Channels one by one, each sample as it is in its file. */
  private async carry(row: PlanRow, temporary: string, final: string): Promise<Made> {
    const { spec } = this.plan;
    let difference: Difference = { samples: 0, most: 0 };
    await writing(final, async () => {
      await rm(temporary, { force: true });
      difference = await this.carryTo(temporary, row);
      await flush(temporary);
    });
    if (difference.samples > 0 && this.isLossless) throw readBackError(final, `${difference.samples} samples differ`);
    const bytes = await readFile(temporary);
    const check = !spec.readBack ? 'none' : difference.samples === 0 ? 'identical' : 'differs';
    return { bytes: bytes.length, sha256: sha256(bytes), check, most: difference.most, counts: noCounts() };
  }

  /** Writes the channels of a row's result. @param path one that does not exist @returns how it differs once it is read back */
  carryTo(path: string, row: PlanRow): Promise<Difference> {
    const { spec, joined } = this.plan;
    const channels = spec.channels.map(({ as, from, of }): CarriedChannel => {
      const place = placeOf(spec.channels, of);
      if (place < 0) return { as, from, path: join(shotRoot(this.places, row.shot), row.from!) };
      const { source } = joined[place]!;
      const file = fileOfFrame(source, row.sourceFrame);
      if (file !== undefined) return { as, from, path: join(this.places.joined![place]!, file) };
      throw new ShaleError({
        code: 'frame-missing',
        fact: `${source.name} has no frame ${row.sourceFrame}, of which ${from} is to be taken.`,
        wayOut: 'Have it made, choose other frames, or leave its channels out.',
        subject: source.name,
      });
    });
    return carryChannels(path, channels, spec.write, spec.readBack);
  }

  private async convert(row: PlanRow, temporary: string, final: string): Promise<Made> {
    const { spec } = this.plan;
    const { image, counts, settings } = await this.picture(row);
    await writing(final, async () => {
      await rm(temporary, { force: true });
      await writeStill(temporary, spec.write.format, image, settings);
      await flush(temporary);
    });
    const bytes = await readFile(temporary);
    const made = { bytes: bytes.length, sha256: sha256(bytes), counts };
    if (!spec.readBack) return { ...made, check: 'none', most: 0 };
    const difference = differenceOf(
      image,
      await readBack(temporary, final, spec.write.format, settings.windows ? 'data' : 'display'),
    );
    if (!difference) throw readBackError(final, 'its size, channels or depth are not what was written');
    if (difference.samples > 0 && this.isLossless) throw readBackError(final, `${difference.samples} samples differ`);
    return { ...made, check: difference.samples === 0 ? 'identical' : 'differs', most: difference.most };
  }

  private get isLossless(): boolean {
    return !this.plan.losses.some(({ code }) => code === 'lossy-format');
  }
}

const shownSize = ([left, top, right, bottom]: [number, number, number, number]) => ({
  width: right - left + 1,
  height: bottom - top + 1,
});

type Made = Pick<Written, 'bytes' | 'sha256' | 'check' | 'most' | 'counts'>;

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
  const alike = a.width === b.width && a.height === b.height && a.channels === b.channels && a.sample === b.sample;
  return alike && bytesOf(a).equals(bytesOf(b)) ? { samples: 0, most: 0 } : compareQuickly(a, b);
}

async function readBack(temporary: string, final: string, format: Format, window: 'display' | 'data'): Promise<Image> {
  try {
    return await readStill(temporary, { format, window });
  } catch (error) {
    throw readBackError(final, (error as Error).message);
  }
}

const readBackError = (final: string, why: string): ShaleError =>
  new ShaleError({
    code: 'read-back-failed',
    fact: `${basename(final)} was written, but reading it back failed: ${why}. It was not kept.`,
    wayOut: 'See whether disk and memory are sound, and run the frame again.',
    subject: final,
  });
