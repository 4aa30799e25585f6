import { constants } from 'node:fs';
import { copyFile, link, mkdir, open, readdir, readFile, rmdir, stat, unlink, utimes } from 'node:fs/promises';
import { dirname } from 'node:path';
import { flush, sameBytes } from '../files.ts';
import { diskAddon } from './addon.ts';

/** A step of many that failed, and how many before it were done. */
export class StepFailed extends Error {
  constructor(
    readonly done: number,
    /** The system's word, as `EEXIST`. */
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

/** What renaming asks of a disk. No call ever writes over a file. Paths are absolute. */
export interface Disk {
  /** Who each name leads to, as `device:inode:bytes:nanoseconds`; empty where nothing is. */
  identify(paths: readonly string[]): Promise<string[]>;
  /** Other names, in order. @throws StepFailed at the first that cannot be given */
  renameAll(from: readonly string[], to: readonly string[]): Promise<void>;
  link(from: string, to: string): Promise<void>;
  /** A copy with the same times, flushed. */
  copy(from: string, to: string): Promise<void>;
  same(one: string, other: string): Promise<boolean>;
  remove(path: string): Promise<void>;
  /** A folder directly in one that exists. */
  makeFolder(path: string): Promise<void>;
  /** Takes a folder away where it is empty; otherwise leaves it. */
  removeFolder(path: string): Promise<void>;
  /** Has a folder's names written to the disk. */
  flushFolder(path: string): Promise<void>;
  /** Adds text to a file's end, made with its folder where it is not there; it is on the disk when this returns. */
  append(path: string, text: string): Promise<void>;
  /** A file's text; empty where there is none. */
  read(path: string): Promise<string>;
  /** The names in a folder; none where it is not there. */
  list(path: string): Promise<string[]>;
}

const codes: Record<number, string> = {
  1: 'EPERM',
  2: 'ENOENT',
  13: 'EACCES',
  16: 'EBUSY',
  17: 'EEXIST',
  18: 'EXDEV',
  20: 'ENOTDIR',
  28: 'ENOSPC',
  30: 'EROFS',
  36: 'ENAMETOOLONG',
  122: 'EDQUOT',
};

/** The machine's own disk. */
export const realDisk: Disk = {
  identify: (paths) => diskAddon.identify(paths),
  async renameAll(from, to) {
    const { done, errno, message } = await diskAddon.renameAll(from, to);
    if (errno !== 0) throw new StepFailed(done, codes[errno] ?? `E${errno}`, message);
  },
  link,
  async copy(from, to) {
    await copyFile(from, to, constants.COPYFILE_EXCL | constants.COPYFILE_FICLONE);
    const { atime, mtime } = await stat(from);
    await utimes(to, atime, mtime);
    await flush(to);
  },
  same: sameBytes,
  remove: unlink,
  makeFolder: async (path) => void (await mkdir(path)),
  removeFolder: (path) =>
    rmdir(path).catch((error: NodeJS.ErrnoException) => {
      if (error.code !== 'ENOTEMPTY' && error.code !== 'ENOENT' && error.code !== 'EEXIST') throw error;
    }),
  async flushFolder(path) {
    const folder = await open(path, 'r');
    try {
      await folder.sync();
    } finally {
      await folder.close();
    }
  },
  async append(path, text) {
    await mkdir(dirname(path), { recursive: true });
    const file = await open(path, 'a');
    try {
      await file.appendFile(text);
      await file.datasync();
    } finally {
      await file.close();
    }
  },
  read: (path) => readFile(path, 'utf8').catch(() => ''),
  list: (path) => readdir(path).catch(() => []),
};

/** The folders that hold some paths, each once. */
export function foldersOf(paths: readonly string[]): string[] {
  const folders = new Set<string>();
  let last = '';
  for (const path of paths) {
    const length = path.lastIndexOf('/');
    // Most lie where the one before them lies.
    if (length === last.length && path.startsWith(last)) continue;
    last = path.slice(0, length);
    folders.add(last === '' ? '/' : last);
  }
  return [...folders];
}
