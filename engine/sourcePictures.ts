import { LRUCache } from 'lru-cache';
import { betweenByMotion, ClipReader, readWhole, type Carried } from '@shale/media';
import {
  areAlike,
  blendPictures,
  coverageCount,
  covers,
  fileOfFrame,
  isPlainTime,
  isVideo,
  ShaleError,
  shotDeclaration,
  shotSource,
  timecodeAfter,
  weavePictures,
  type Declaration,
  type Image,
  type Mixed,
  type Plan,
  type PlanRow,
  type ReadFile,
} from '@shale/core';
import { pictureOfClip } from './clips.ts';
import type { Held } from './beneath.ts';
import type { Company } from './company.ts';
import { shotRoot, type Places } from './places.ts';
import { refuseTouched, SourceFiles } from './sourceFiles.ts';
import { nothingExpected, type Placed } from './stamps.ts';

/** A source picture as its file holds it, what the file said beside it, and the files of single frames that were read. */
export interface Read {
  image: Image;
  carried: Carried;
  files: ReadFile[];
  /** Whether others look at the picture too, or will. */
  isShared: boolean;
}

/** A clip that stays open. */
interface OpenClip {
  placed: Placed;
  held: Held;
  reader: ClipReader;
  close: () => Promise<void>;
}

/** Pictures that are kept where results share their frames. */
const keptAtMost = 4;

/** The source pictures of a plan's rows: mixed of two frames where the plan says so. */
export class SourcePictures {
  private readonly clips = new Map<number, Promise<OpenClip>>();
  private readonly kept = new LRUCache<string, Promise<Read>>({ max: keptAtMost });
  private readonly keeps: boolean;

  /** @param staysOpen whether clips stay open from row to row; else they are those that the process has open */
  constructor(
    private readonly plan: Plan,
    private readonly places: Places,
    private readonly staysOpen: boolean,
    private readonly files: SourceFiles = new SourceFiles(nothingExpected),
    /** Others that are made of the same pictures. */
    private readonly company?: Company,
  ) {
    this.keeps = !isPlainTime(plan.spec.time);
  }

  async read({ shot, sourceFrame, mixed }: PlanRow): Promise<Read> {
    const first = await this.frame(shot, sourceFrame);
    if (!mixed) return first;
    const second = await this.frame(shot, mixed.frame);
    const image = await this.mix(shot, sourceFrame, first.image, second.image, mixed);
    return { ...first, image, files: [...first.files, ...second.files], isShared: true };
  }

  /** Whether a picture is not for one result alone. */
  private get isShared(): boolean {
    return this.keeps || this.company !== undefined;
  }

  async close(): Promise<void> {
    const clips = [...this.clips.values()];
    this.clips.clear();
    for (const coming of clips) await (await coming.catch(() => undefined))?.close();
  }

  /** What tells the pictures of a file, read one way, from others. */
  private keyOf(placed: Placed, how: object): string {
    return JSON.stringify([placed.root, placed.file, how, this.files.expects(placed)]);
  }

  /** A frame by itself; those of late are kept where others may be made of them too. */
  private frame(shot: number, number: number): Promise<Read> {
    if (!this.keeps) return this.fetch(shot, number);
    const key = `${shot} ${number}`;
    let read = this.kept.get(key);
    if (!read) this.kept.set(key, (read = this.fetch(shot, number)));
    return read;
  }

  private async fetch(shot: number, number: number): Promise<Read> {
    const { spec } = this.plan;
    const source = shotSource(this.plan, shot);
    const declaration = shotDeclaration(this.plan, shot);
    const placed = { root: shotRoot(this.places, shot), file: fileOfFrame(source, number)! };
    if (!isVideo(source)) {
      const how = {
        layer: spec.picture.layer,
        picture: source.kind === 'clip' ? number : 0,
        window: this.plan.window === 'display' ? ('display' as const) : ('data' as const),
      };
      const read = () => this.files.read(placed, (path) => readWhole(path, how));
      const { value, file } = await (this.company?.read(this.keyOf(placed, how), read) ?? read());
      return { ...value, files: [file], isShared: this.isShared };
    }
    const how = { fields: spec.clip.fields, layer: spec.picture.layer };
    if (!this.staysOpen)
      return {
        image: await this.files.at(placed, (path) => pictureOfClip(path, number, how)),
        carried: {},
        files: [],
        isShared: true,
      };
    const coming = this.company
      ? this.company.open(this.keyOf(placed, how), () => this.openClip(placed, how))
      : (this.clips.get(shot) ?? this.openClip(placed, how));
    if (!this.company) this.clips.set(shot, coming);
    const clip = await coming;
    const read = () => clip.reader.picture(number);
    const image = await (this.company?.read(`${this.keyOf(placed, how)} ${number}`, read) ?? read());
    refuseTouched(clip.placed, clip.held);
    return {
      image,
      carried: { timecode: timecodeOf(source.facts?.timecode, number, declaration) },
      files: [],
      isShared: this.isShared,
    };
  }

  private async openClip(placed: Placed, how: Parameters<typeof ClipReader.open>[1]): Promise<OpenClip> {
    const held = this.files.hold(placed);
    try {
      const reader = await ClipReader.open(held.path, how);
      const close = async () => {
        await reader.close();
        held.close();
      };
      return { placed, held, reader, close };
    } catch (error) {
      held.close();
      throw error;
    }
  }

  private async mix(shot: number, number: number, first: Image, second: Image, mixed: Mixed): Promise<Image> {
    if (!areAlike(first, second)) {
      throw new ShaleError({
        code: 'frame-differs',
        fact: `Frames ${number} and ${mixed.frame} of ${shotSource(this.plan, shot).name} cannot be combined: their sizes, channels or samples differ.`,
        wayOut: 'Use the nearest frame instead of in-between frames, or leave such pictures out.',
        subject: String(mixed.frame),
      });
    }
    if (mixed.how === 'lines') return weavePictures(first, second);
    const straight = shotDeclaration(this.plan, shot).alpha.value === 'straight';
    if (mixed.how === 'blend') return blendPictures(first, second, mixed.weight, straight);
    const step = mixed.frame - number;
    const [before, after] = await Promise.all([
      this.beside(shot, number - step, first),
      this.beside(shot, mixed.frame + step, second),
    ]);
    return betweenByMotion([before, first, second, after], mixed.weight);
  }

  /** A frame beside others; where there is none, or it differs, the other stands for it. */
  private async beside(shot: number, number: number, otherwise: Image): Promise<Image> {
    const source = shotSource(this.plan, shot);
    const there = isVideo(source)
      ? number >= 0 && number < coverageCount(source.coverage)
      : covers(source.coverage, number);
    if (!there) return otherwise;
    const image = await this.frame(shot, number).then(
      (read) => read.image,
      () => otherwise,
    );
    return areAlike(image, otherwise) ? image : otherwise;
  }
}

/** The timecode of a clip's picture, counted on from that of its first; undefined where nothing says it. */
function timecodeOf(first: string | undefined, picture: number, { rate }: Declaration): string | undefined {
  if (first === undefined || !rate.value) return undefined;
  try {
    return timecodeAfter(first, picture, rate.value);
  } catch {
    return undefined;
  }
}
