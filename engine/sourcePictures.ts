import { join } from 'node:path';
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
} from '@shale/core';
import { pictureOfClip } from './clips.ts';
import { shotRoot, type Places } from './places.ts';

/** A source picture as its file holds it, and what the file said beside it. */
export interface Read {
  image: Image;
  carried: Carried;
}

/** Pictures that are kept where results share their frames. */
const keptAtMost = 4;

/** The source pictures of a plan's rows: mixed of two frames where the plan says so. */
export class SourcePictures {
  private readonly clips = new Map<number, Promise<ClipReader>>();
  private readonly kept = new LRUCache<string, Promise<Read>>({ max: keptAtMost });
  private readonly keeps: boolean;

  /** @param staysOpen whether clips stay open from row to row; else they are those that the process has open */
  constructor(
    private readonly plan: Plan,
    private readonly places: Places,
    private readonly staysOpen: boolean,
  ) {
    this.keeps = !isPlainTime(plan.spec.time);
  }

  async read({ shot, sourceFrame, mixed }: PlanRow): Promise<Read> {
    const first = await this.frame(shot, sourceFrame);
    return mixed ? { ...first, image: await this.mix(shot, sourceFrame, first.image, mixed) } : first;
  }

  async close(): Promise<void> {
    const readers = [...this.clips.values()];
    this.clips.clear();
    for (const reader of readers) await (await reader.catch(() => undefined))?.close();
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
    const path = join(shotRoot(this.places, shot), fileOfFrame(source, number)!);
    if (!isVideo(source))
      return readWhole(path, {
        layer: spec.picture.layer,
        picture: source.kind === 'clip' ? number : 0,
        window: this.plan.window === 'display' ? 'display' : 'data',
      });
    const how = { fields: spec.clip.fields, layer: spec.picture.layer };
    if (!this.staysOpen) return { image: await pictureOfClip(path, number, how), carried: {} };
    const reader = this.clips.get(shot) ?? ClipReader.open(path, how);
    this.clips.set(shot, reader);
    const image = await (await reader).picture(number);
    return { image, carried: { timecode: timecodeOf(source.facts?.timecode, number, declaration) } };
  }

  private async mix(shot: number, number: number, first: Image, mixed: Mixed): Promise<Image> {
    const { image: second } = await this.frame(shot, mixed.frame);
    if (!areAlike(first, second)) {
      throw new ShaleError({
        code: 'frame-differs',
        fact: `Frames ${number} and ${mixed.frame} of ${shotSource(this.plan, shot).name} cannot become one: their sizes, channels or samples differ.`,
        wayOut: 'Take the nearest frame instead of what is between, or leave such pictures out.',
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
