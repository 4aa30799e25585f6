import { readdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { WorkerPool } from './pool.ts';
import type { Tasks } from './tasks.ts';

/** Tasks that write a few files by {@link publishFew}. */
type FewTask = 'soundWrite' | 'soundSwap';

/**
 * Runs a task that writes a few files. Where its process ended, what it left half is removed.
 * @throws ShaleError as {@link WorkerPool.run}
 */
export async function runFew<T extends FewTask>(
  pool: Pick<WorkerPool, 'run'>,
  task: T,
  work: Tasks[T]['in'],
  signal: AbortSignal,
): Promise<Tasks[T]['out']> {
  try {
    return await pool.run(task, work, { signal });
  } catch (error) {
    const folder = join(work.target, work.folder);
    for (const name of await readdir(folder).catch(() => []))
      if (name.startsWith(`.shale-${work.job}-`)) await rm(join(folder, name), { force: true });
    throw error;
  }
}
