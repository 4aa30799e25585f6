import { dirname } from 'node:path';
import { ShaleError } from '@shale/core';
import { folderIdentity, holdFolder, type Held } from './beneath.ts';
import { folderGone, keyOf, type Expected } from './stamps.ts';

/**
 * The folder that a result goes into, held open: whatever its name leads to later, results go where the first went.
 * @param to the result below its root
 * @throws ShaleError `folder-gone` where it is not the one that the job began with, `folder-denied`, `outside-root`
 */
export function holdTarget(root: string, to: string, expected: Expected): Held {
  const folder = dirname(to) === '.' ? '' : dirname(to);
  let one: Held;
  try {
    one = holdFolder(root, folder);
  } catch (error) {
    if (error instanceof ShaleError) throw error;
    throw folderGone(folder, 'of the results', (error as NodeJS.ErrnoException).code);
  }
  const was = expected.folders.get(keyOf({ root, file: folder }));
  if (was === undefined || was === folderIdentity(one)) return one;
  one.close();
  throw folderGone(folder, 'of the results');
}
