import { createHash } from 'node:crypto';
import { fsync } from 'node:fs';
import { link, open, rename, rm, statfs } from 'node:fs/promises';
import { basename } from 'node:path';
import { getSystemErrorName } from 'node:util';
import { ShaleError } from '@shale/core';
import { diskAddon } from './disk/addon.ts';

/** Codes after which no other result can be written either: the job stops instead of failing frame by frame. */
const stops: Record<string, { code: string; fact: (name: string) => string; wayOut: string }> = {
  ENOSPC: {
    code: 'disk-full',
    fact: (name) => `The disk is full: ${name} could not be written.`,
    wayOut: 'Free some space and press Continue; written files stay, and the job continues at the next frame.',
  },
  EDQUOT: {
    code: 'disk-full',
    fact: (name) => `The disk quota is used up: ${name} could not be written.`,
    wayOut: 'Free some space and press Continue; written files stay.',
  },
  EROFS: {
    code: 'not-writable',
    fact: (name) => `The disk is read-only: ${name} could not be written.`,
    wayOut: 'Choose another folder for the results.',
  },
  EACCES: {
    code: 'not-writable',
    fact: (name) => `${name} cannot be written there: permission denied.`,
    wayOut: 'Give the account that runs Shale the right to write, or choose another folder.',
  },
  EPERM: {
    code: 'not-writable',
    fact: (name) => `${name} cannot be written there: the folder is locked.`,
    wayOut: 'Unlock it for the account that runs Shale (permissions or immutable flag), or choose another folder.',
  },
  ...Object.fromEntries(
    ['EIO', 'ENOTCONN', 'ESTALE', 'ENODEV', 'ENXIO'].map((code) => [
      code,
      {
        code: 'disk-away',
        fact: (name: string) => `The disk does not respond (${code}): ${name} could not be written.`,
        wayOut: 'Check that it is mounted and healthy, and press Continue; written files stay.',
      },
    ]),
  ),
  ENOENT: {
    code: 'folder-gone',
    fact: (name) => `The folder for ${name} no longer exists.`,
    wayOut: 'Make the folder again and press Continue.',
  },
};

/** Stop codes as a set, for whoever decides between failing a frame and stopping a job. */
export const stopCodes: ReadonlySet<string> = new Set([
  ...Object.values(stops).map(({ code }) => code),
  'folder-denied',
]);

/** What went wrong in writing, in words; codecs report a full disk in their own. */
export function writeError(path: string, error: unknown): ShaleError {
  if (error instanceof ShaleError) return error;
  const { code = '', message } = error as NodeJS.ErrnoException;
  const known = stops[code] ?? (/No space left on device/i.test(message) ? stops.ENOSPC : undefined);
  const name = basename(path);
  if (known) return new ShaleError({ code: known.code, fact: known.fact(name), wayOut: known.wayOut, subject: path });
  return new ShaleError({
    code: 'write-failed',
    fact: `${name} could not be written: ${message}.`,
    wayOut: 'Check the disk, and run the frame again.',
    subject: path,
  });
}

/** Flushes a file's bytes to the disk. */
export async function flush(path: string): Promise<void> {
  const file = await open(path, 'r+');
  try {
    await file.datasync();
  } finally {
    await file.close();
  }
}

/** Room below which a disk counts as full, bytes: less than a block for each of the files that are being written. */
const leastRoom = 256 << 10;

/** Whether the disk of a folder has no room any more. */
async function isFullDisk(folder: string): Promise<boolean> {
  const disk = await statfs(folder).catch(() => undefined);
  return disk !== undefined && disk.bavail * disk.bsize < leastRoom;
}

/** What went wrong where a few files are written: a library tells of a full disk as of a source that cannot be read, or not at all. */
export async function fewError(path: string, folder: string, error: unknown): Promise<ShaleError> {
  const known = error instanceof ShaleError ? error.code : undefined;
  const isDoubtful = known === undefined || known === 'damaged-file' || known === 'read-back-failed';
  const full = isDoubtful && (/No space left/i.test((error as Error).message) || (await isFullDisk(folder)));
  if (!full && known !== 'disk-full') return writeError(path, error);
  return new ShaleError({
    code: 'disk-full',
    fact: `The disk is full: ${basename(path)} could not be written.`,
    wayOut: 'Free some space, and write it again.',
    subject: path,
  });
}

/** What went wrong with a file: some writers say nothing of a disk that is full, and it is found cut short when it is read back. */
export async function cutShortByDisk(error: unknown, folder: string, path: string): Promise<unknown> {
  const isUnread = error instanceof ShaleError && error.code === 'read-back-failed';
  if (!isUnread || !(await isFullDisk(folder))) return error;
  return writeError(path, Object.assign(new Error('full'), { code: 'ENOSPC' }));
}

/** Flushes the names in a folder to the disk, as far as its file system can. */
export async function flushFolder({ fd }: { fd: number }): Promise<void> {
  await new Promise<void>((resolve) => fsync(fd, () => resolve()));
}

export const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** Bytes that are compared at once. */
const block = 4 << 20;

/** Whether two files hold the same bytes, read a piece at a time. */
export async function sameBytes(first: string, second: string): Promise<boolean> {
  const one = await open(first, 'r');
  try {
    const other = await open(second, 'r');
    try {
      const { size } = await one.stat();
      if ((await other.stat()).size !== size) return false;
      const pieces = [Buffer.alloc(Math.min(block, size)), Buffer.alloc(Math.min(block, size))] as const;
      for (let at = 0; at < size; at += block) {
        const length = Math.min(block, size - at);
        await Promise.all([one.read(pieces[0], 0, length, at), other.read(pieces[1], 0, length, at)]);
        if (pieces[0].compare(pieces[1], 0, length, 0, length) !== 0) return false;
      }
      return true;
    } finally {
      await other.close();
    }
  } finally {
    await one.close();
  }
}

/**
 * Gives a finished file its final name. Without `replaces` an existing file is never touched: one with the same bytes
 * counts as ours (a job that was cut off between naming and noting it down), any other is an error.
 * @returns whether nothing had the name before
 */
export async function publish(temporary: string, final: string, replaces: boolean): Promise<boolean> {
  if (replaces) {
    await rename(temporary, final);
    return false;
  }
  let error = await link(temporary, final).catch((refused: NodeJS.ErrnoException) => refused);
  // No hard links on this file system: another name, which never goes over one that exists.
  if (error && ['EPERM', 'ENOTSUP', 'EMLINK'].includes(error.code ?? '')) {
    const { errno, message } = await diskAddon.renameAll([temporary], [final]);
    if (errno === 0) return true;
    error = Object.assign(new Error(message), { code: getSystemErrorName(-errno) });
  }
  if (error && error.code !== 'EEXIST') throw error;
  if (error && !(await sameBytes(temporary, final))) {
    throw new ShaleError({
      code: 'output-exists',
      fact: `${basename(final)} exists already with other contents; it was not touched.`,
      wayOut: 'Choose another folder or name, or let the spec replace existing files.',
      subject: final,
    });
  }
  await rm(temporary);
  return !error;
}
