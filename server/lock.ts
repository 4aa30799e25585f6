import { linkSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ShaleError } from '@shale/core';

/** Whether a process is a Shale server that still runs, or one that restores its database. */
function isServer(pid: number): boolean {
  try {
    return /server\/(main|backupMain)/.test(readFileSync(`/proc/${pid}/cmdline`, 'utf8'));
  } catch {
    return false;
  }
}

const ownerOf = (path: string): number => {
  try {
    return Number(readFileSync(path, 'utf8'));
  } catch {
    return 0;
  }
};

/** Takes the lock of a killed server away; that of one which took it in this very moment is given back. */
function dropStale(path: string, aside: string, isTaken: (pid: number) => boolean): void {
  try {
    renameSync(path, aside);
    if (isTaken(ownerOf(aside))) linkSync(aside, path);
  } catch (error) {
    // Somebody else was quicker: what there is now is looked at again.
    if (!['ENOENT', 'EEXIST'].includes((error as NodeJS.ErrnoException).code ?? '')) throw error;
  } finally {
    rmSync(aside, { force: true });
  }
}

/**
 * Takes a data folder for this process alone: two servers on one would end each other's database. The lock is made whole beside its
 * name and given it by a link, which fails where there is one: of two that come at once one is refused.
 * @returns what gives it free again
 * @throws ShaleError `data-taken`
 */
export function takeData(folder: string, runs: (pid: number) => boolean = isServer): () => void {
  const path = join(folder, 'server.pid');
  const own = `${path}.${process.pid}`;
  // Our own number was left by a killed server that had it before us, as in a container that is started anew.
  const isTaken = (pid: number) => pid > 0 && pid !== process.pid && runs(pid);
  writeFileSync(own, String(process.pid));
  try {
    for (;;) {
      try {
        linkSync(own, path);
        return () => rmSync(path, { force: true });
      } catch (error) {
        if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
      }
      const pid = ownerOf(path);
      if (isTaken(pid)) {
        throw new ShaleError({
          code: 'data-taken',
          fact: `A Shale of process ${pid} works on ${folder} already.`,
          wayOut: 'Open that one, stop it first, or give this one a folder of its own with SHALE_DATA.',
          subject: folder,
        });
      }
      dropStale(path, `${own}.stale`, isTaken);
    }
  } finally {
    rmSync(own, { force: true });
  }
}
