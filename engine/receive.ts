import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { fileKind, strictRead, type Loaded, type Receiver, type SeenPicture } from '@shale/core';
import { rootError } from './list.ts';
import type { WorkerPool } from './pool.ts';

/** Headers that one task reads. */
const together = 256;

/**
 * Opens a folder as a tool with a receiver's rules would: by names and headers, to the letter.
 * @param folder absolute
 * @throws ShaleError where the folder cannot be read
 */
export async function openStrictly(folder: string, receiver: Receiver, pool: WorkerPool): Promise<Loaded> {
  const entries = await readdir(folder, { withFileTypes: true }).catch((error: unknown) => {
    throw rootError(folder, error);
  });
  const names = entries.filter((entry) => entry.isFile() && !entry.name.startsWith('.')).map(({ name }) => name);
  const pictures = names.filter((name) => fileKind(name) === 'picture');
  const seen = new Map<string, SeenPicture>();
  for (let at = 0; at < pictures.length; at += together) {
    const part = pictures.slice(at, at + together);
    const probed = await pool.run(
      'probe',
      part.map((name) => ({ path: join(folder, name), kind: 'picture' as const })),
    );
    probed.forEach((one, index) => 'facts' in one && seen.set(part[index]!, one.facts));
  }
  return strictRead(names, receiver, seen);
}
