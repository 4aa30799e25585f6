import { readStill } from '@shale/media';
import {
  otherFiles,
  type Image,
  type OtherFile,
  type Others,
  type Plan,
  type PlanRow,
  type ReadFile,
  type Role,
} from '@shale/core';
import { pictureOfClip } from './clips.ts';
import type { Places } from './places.ts';
import type { SourceFiles } from './sourceFiles.ts';

interface Read {
  image: Image;
  /** The file of a single frame that it came of. */
  file?: ReadFile;
}

/** The pictures of a plan's second sources; one that goes with several results in a row is read once. */
export class OtherPictures {
  /** What was read last, by what it is for. */
  private readonly kept = new Map<Role, { file: string; picture: number; read: Promise<Read> }>();

  constructor(
    private readonly plan: Plan,
    private readonly places: Places,
    private readonly files: SourceFiles,
  ) {}

  /** The pictures that go with a row, and the files of single frames among what was read. */
  async of(row: PlanRow): Promise<{ others: Others; files: ReadFile[] }> {
    const wanted = Object.entries(otherFiles(this.plan, row.sourceFrame)) as [Role, OtherFile][];
    const read = await Promise.all(wanted.map(async ([role, one]) => [role, await this.read(role, one)] as const));
    return {
      others: Object.fromEntries(read.map(([role, { image }]) => [role, image])),
      files: read.flatMap(([, { file }]) => file ?? []),
    };
  }

  private read(role: Role, { file, picture, clip }: OtherFile): Promise<Read> {
    const before = this.kept.get(role);
    if (before?.file === file && before.picture === picture) return before.read;
    const placed = { root: this.places.others![role]!, file };
    const read = clip
      ? this.files.at(placed, async (path) => ({ image: await pictureOfClip(path, picture) }))
      : this.files
          .read(placed, (path) => readStill(path, { picture }))
          .then(({ value, file: told }) => ({ image: value, file: told }));
    this.kept.set(role, { file, picture, read });
    return read;
  }
}
