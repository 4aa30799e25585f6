import {
  closeSync,
  constants,
  fstatSync,
  opendirSync,
  openSync,
  readlinkSync,
  realpathSync,
  type Stats,
} from 'node:fs';
import { join, relative, sep } from 'node:path';
import { getSystemErrorName } from 'node:util';
import { ShaleError } from '@shale/core';
import { held } from '@shale/media';
import { diskAddon } from './disk/addon.ts';

/** A file or a folder that is held open: read and written through its descriptor, wherever its name leads meanwhile. */
export interface Held {
  fd: number;
  /** The way to it by its descriptor, for whoever wants a path. */
  path: string;
  /** What it was as it was opened. */
  told: Stats;
  close(): void;
}

const leadsOut = (path: string): ShaleError =>
  new ShaleError({
    code: 'outside-root',
    fact: `"${path}" leads outside its root.`,
    wayOut: 'Move the files below the root, or add their folder as a root.',
    subject: path,
  });

const systemError = (errno: number, path: string): NodeJS.ErrnoException => {
  const code = getSystemErrorName(-errno);
  return Object.assign(new Error(`${code}: ${path}`), { code, errno: -errno, path });
};

/** Where the descriptor leads is asked of the system: for kernels without `openat2` (before 5.6, or kept from a sandbox). */
function openAndLook(root: string, below: string, flags: number): number {
  const fd = openSync(join(root, below), flags);
  const real = realpathSync(root);
  const lies = readlinkSync(`/proc/self/fd/${fd}`);
  if (lies === real || lies.startsWith(real.endsWith(sep) ? real : real + sep)) return fd;
  closeSync(fd);
  throw leadsOut(below);
}

function openBelow(root: string, below: string, flags: number): number {
  const path = below === '' ? '.' : below;
  const fd = diskAddon.openBeneath(root, path, flags);
  if (fd >= 0) return fd;
  const code = getSystemErrorName(fd);
  if (code === 'ENOSYS' || code === 'EPERM') return openAndLook(root, path, flags);
  if (code !== 'EXDEV') throw systemError(-fd, join(root, below));
  // A link with a whole path may lead to another place of the same root: gone there by that place's own name.
  const there = relative(realpathSync(root), realpathSync(join(root, below)));
  if (there.startsWith('..') || there.startsWith('/')) throw leadsOut(below);
  const again = diskAddon.openBeneath(root, there === '' ? '.' : there, flags);
  if (again >= 0) return again;
  throw getSystemErrorName(again) === 'EXDEV' ? leadsOut(below) : systemError(-again, join(root, below));
}

const openAnywhere = (root: string, below: string, flags: number): number => openSync(join(root, below), flags);

function hold(root: string, below: string, flags: number, opens = openBelow): Held {
  const fd = opens(root, below, flags);
  try {
    const path = `/proc/self/fd/${fd}`;
    const told = fstatSync(fd);
    const forget = held(path, join(root, below));
    return {
      fd,
      path,
      told,
      close: () => {
        forget();
        closeSync(fd);
      },
    };
  } catch (error) {
    closeSync(fd);
    throw error;
  }
}

/**
 * Opens a file below a root for reading; links are followed as long as they stay inside. The caller closes it.
 * @param follows whether links are followed wherever they lead
 * @throws ShaleError `outside-root`; what the file system says
 */
export function holdFile(root: string, file: string, follows = false): Held {
  // Without waiting: a pipe of that name would keep its reader for ever.
  const one = hold(root, file, constants.O_RDONLY | constants.O_NONBLOCK, follows ? openAnywhere : openBelow);
  if (one.told.isFile()) return one;
  one.close();
  throw Object.assign(new Error(`${file} is not a file`), { code: 'EINVAL' });
}

/** Opens a folder below a root, itself where `folder` is empty. The caller closes it. @throws as {@link holdFile} */
export const holdFolder = (root: string, folder: string): Held =>
  hold(root, folder, constants.O_RDONLY | constants.O_DIRECTORY);

/** Which folder it is, whatever its name: two that have the same are one. */
export const folderIdentity = ({ told }: Pick<Held, 'told'>): string => `${told.dev}:${told.ino}`;

/** Whether a folder is there, is the one that it was, and can be listed. @param was its identity, where it is known */
export function isThere(root: string, folder: string, was?: string): boolean {
  try {
    const one = holdFolder(root, folder);
    try {
      opendirSync(one.path).closeSync();
      return was === undefined || was === folderIdentity(one);
    } finally {
      one.close();
    }
  } catch {
    return false;
  }
}
