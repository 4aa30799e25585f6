import { stat } from 'node:fs/promises';

/** What tells a file as it lies there now from what it was before: its path, modification and size. One that is not there has zeros. */
export async function fileIdentity(path: string): Promise<string> {
  const { mtimeMs, size } = await stat(path).catch(() => ({ mtimeMs: 0, size: 0 }));
  return [path, mtimeMs, size].join('\0');
}
