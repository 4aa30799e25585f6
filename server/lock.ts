import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ShaleError } from '@shale/core';

/** Whether a process is a Shale server that still runs. */
function isServer(pid: number): boolean {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('server/main');
  } catch {
    return false;
  }
}

/**
 * Takes a data folder for this process alone: two servers on one would end each other's database.
 * @returns what gives it free again
 * @throws ShaleError `data-taken`
 */
export function takeData(folder: string): () => void {
  const path = join(folder, 'server.pid');
  let pid = 0;
  try {
    pid = Number(readFileSync(path, 'utf8'));
  } catch {
    // Nobody has it.
  }
  if (pid > 0 && pid !== process.pid && isServer(pid)) {
    throw new ShaleError({
      code: 'data-taken',
      fact: `A Shale of process ${pid} works on ${folder} already.`,
      wayOut: 'Open that one, stop it first, or give this one a folder of its own with SHALE_DATA.',
      subject: folder,
    });
  }
  writeFileSync(path, String(process.pid));
  return () => rmSync(path, { force: true });
}
