import { stat } from 'node:fs/promises';

/** What tells a file as it lies there now from any other and from what it was before. One that is not there has its path and zeros. */
export async function fileIdentity(path: string): Promise<string> {
  const told = await stat(path).catch(() => undefined);
  if (!told) return [path, 0, 0].join('\0');
  // By inode and not by path: one that is held open has a path of the moment.
  const { dev, ino, mtimeMs, size } = told;
  return [dev, ino, mtimeMs, size].join('\0');
}
