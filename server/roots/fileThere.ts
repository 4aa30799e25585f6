import { stat } from 'node:fs/promises';
import { ShaleError, type Source } from '@shale/core';
import { insideRoot } from './paths.ts';

/** A file as it lies on the disk now: absolute path, milliseconds since 1970, bytes. */
export interface FileThere {
  path: string;
  modified: number;
  size: number;
}

/** The file of a clip, still or sound. @param root the folder of its root, absolute @throws ShaleError `file-gone` */
export const fileOfSource = ({ folder, name }: Pick<Source, 'folder' | 'name'>, root: string): Promise<FileThere> =>
  fileThere(root, folder ? `${folder}/${name}` : name);

/** A file of a root. @param root its folder, absolute @param below the file's path in it @throws ShaleError `file-gone` */
export async function fileThere(root: string, below: string): Promise<FileThere> {
  const path = await insideRoot(root, below);
  const told = await stat(path).catch(() => undefined);
  if (!told) {
    throw new ShaleError({
      code: 'file-gone',
      fact: `${below} no longer exists.`,
      wayOut: 'Scan again on Intake.',
      subject: below,
    });
  }
  return { path, modified: told.mtimeMs, size: told.size };
}
