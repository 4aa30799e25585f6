import { statfs } from 'node:fs/promises';

/** Bytes free on the disk of a folder; null where it does not tell. */
export async function roomOn(folder: string): Promise<number | null> {
  const disk = await statfs(folder).catch(() => undefined);
  return disk ? disk.bavail * disk.bsize : null;
}
