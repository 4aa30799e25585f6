import { realpath } from 'node:fs/promises';
import { dirname, isAbsolute, join, sep } from 'node:path';
import { ShaleError } from '@shale/core';

const outside = (path: string): ShaleError =>
  new ShaleError({
    code: 'outside-root',
    fact: `"${path}" leads outside its root.`,
    wayOut: 'Name a folder below the root, without "..", links out of it or an absolute path.',
    subject: path,
  });

const tooLong = (path: string): ShaleError =>
  new ShaleError({
    code: 'name-too-long',
    fact: `A folder of ${path.length.toLocaleString('en-GB')} characters is too long for a disk, in total or in one step.`,
    wayOut: 'Keep each step under 256 bytes of UTF-8.',
    subject: path.slice(0, 200),
  });

/** Whether a path below a root is plain: relative, with no step up, no backslash, no control character. */
function isPlain(path: string): boolean {
  if (isAbsolute(path) || /[\\\u0000-\u001f]/.test(path)) return false;
  return path.split('/').every((step) => step !== '..' && step !== '.');
}

async function realOrParent(path: string): Promise<string> {
  try {
    return await realpath(path);
  } catch (error) {
    // What is not there yet, or has a file in its way, is judged by what is above it.
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'ENAMETOOLONG') throw tooLong(path);
    if ((code !== 'ENOENT' && code !== 'ENOTDIR') || dirname(path) === path) throw error;
    return join(await realOrParent(dirname(path)), path.slice(dirname(path).length));
  }
}

/**
 * The absolute path of something below a root. What exists of it is followed through its links and must end up inside.
 * @throws ShaleError `outside-root`
 */
export async function insideRoot(root: string, path: string): Promise<string> {
  if (!isPlain(path)) throw outside(path);
  const real = await realpath(root);
  const whole = await realOrParent(join(real, path));
  if (whole !== real && !whole.startsWith(real.endsWith(sep) ? real : real + sep)) throw outside(path);
  return join(real, path);
}
