import { fstatSync, type Stats } from 'node:fs';
import { basename, dirname } from 'node:path';
import { ShaleError, type ReadFile } from '@shale/core';
import { fileError } from '@shale/media';
import { holdFile, isThere, type Held } from './beneath.ts';
import { sumOfFile } from './digests.ts';
import { folderGone, keyOf, unknownInode, type Expected, type Placed } from './stamps.ts';

/** Errors by which the system says that a whole disk or folder may be gone, and not only a file. */
const folderErrors = new Set(['ENOENT', 'ENOTDIR', 'EACCES', 'EPERM', 'EIO', 'ENOTCONN', 'ESTALE', 'ENODEV', 'ENXIO']);

const sameAs = (a: Stats, b: Stats): boolean => a.size === b.size && a.mtimeMs === b.mtimeMs;

const changedFile = (file: string, when: string): ShaleError =>
  new ShaleError({
    code: 'source-changed',
    fact: `${basename(file)} ${when}.`,
    wayOut: 'Check it: run a new plan, or let the job continue and use the file as it is.',
    subject: file,
  });

/**
 * The files that results are made of: opened below their roots and nowhere else, read through their descriptors, looked at before
 * and after, their checksums taken on the way.
 */
export class SourceFiles {
  constructor(
    private readonly expected: Expected,
    /** As {@link Places} say. */
    private readonly follows = false,
  ) {}

  /** What a file is expected to be, as text; the same for two that would take and refuse the same. */
  expects(placed: Placed): string {
    const { bytes, modified, inode, takes } = this.expected.files.get(keyOf(placed)) ?? {};
    return `${bytes} ${modified} ${inode} ${takes} ${this.follows}`;
  }

  /** Opens a file. @throws ShaleError `source-changed` where it is not what was planned, `folder-gone`, or naming the file */
  hold({ root, file }: Placed): Held & { changed: boolean } {
    const one = this.open({ root, file });
    const planned = this.expected.files.get(keyOf({ root, file }));
    const { size, mtimeMs, ino } = one.told;
    const changed =
      planned !== undefined &&
      (planned.bytes !== size ||
        planned.modified !== mtimeMs ||
        (planned.inode !== unknownInode && planned.inode !== ino));
    if (!changed || planned.takes) return { ...one, changed };
    one.close();
    throw changedFile(file, 'is not the planned file: it was replaced or changed since');
  }

  /** Works on a file through its descriptor, without its checksum. @throws ShaleError as {@link hold}, and what `work` throws */
  async at<T>(placed: Placed, work: (path: string) => Promise<T>): Promise<T> {
    const one = this.hold(placed);
    try {
      return await work(one.path);
    } finally {
      one.close();
    }
  }

  /** Works on a file that nobody changes meanwhile. @throws ShaleError as {@link hold}, and what `work` throws */
  async read<T>(placed: Placed, work: (path: string) => Promise<T>): Promise<{ value: T; file: ReadFile }> {
    const {
      value,
      files: [file],
    } = await this.readAll([placed], async ([path]) => ({ value: await work(path!) }));
    return { value, file: file! };
  }

  /** {@link read} for several files at once. */
  async readAll<T extends object>(
    placed: readonly Placed[],
    work: (paths: string[]) => Promise<T>,
  ): Promise<T & { files: ReadFile[] }> {
    const open: (Held & { changed: boolean })[] = [];
    let sums: Promise<PromiseSettledResult<string>[]> | undefined;
    const refuseAnyTouched = () => open.forEach((one, at) => refuseTouched(placed[at]!, one));
    try {
      for (const one of placed) open.push(this.hold(one));
      sums = Promise.allSettled(open.map(({ fd }) => sumOfFile(fd)));
      const value = await work(open.map(({ path }) => path));
      refuseAnyTouched();
      return {
        ...value,
        files: (await sums).map((sum, at) => {
          if (sum.status === 'rejected') throw fileError(placed[at]!.file, sum.reason);
          return readAs(placed[at]!, open[at]!, sum.value);
        }),
      };
    } catch (error) {
      // What could not be read because somebody wrote to it is not called damaged.
      refuseAnyTouched();
      throw error;
    } finally {
      // All are waited for, whatever fails: a descriptor is not closed under whoever reads it.
      await sums;
      for (const one of open) one.close();
    }
  }

  private open({ root, file }: Placed): Held {
    try {
      return holdFile(root, file, this.follows);
    } catch (error) {
      const { code = '' } = error as NodeJS.ErrnoException;
      const folder = dirname(file) === '.' ? '' : dirname(file);
      if (folderErrors.has(code) && !isThere(root, folder, this.expected.folders.get(keyOf({ root, file: folder }))))
        throw folderGone(folder, 'of the source', code);
      throw fileError(file, error);
    }
  }
}

/** @throws ShaleError `source-changed` where a file was written to since it was opened */
export function refuseTouched({ file }: Placed, { fd, told }: Held): void {
  if (!sameAs(fstatSync(fd), told)) throw changedFile(file, 'changed while it was read');
}

/** What is told of a file that was read. */
export const readAs = ({ file }: Placed, { told, changed }: Held & { changed: boolean }, sum: string): ReadFile => ({
  file,
  bytes: told.size,
  sum,
  ...(changed ? { changed: true as const } : {}),
});
