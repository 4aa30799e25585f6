import { access, constants } from 'node:fs/promises';
import { join } from 'node:path';
import { covers, ShaleError, type FrameRange, type Plan } from '@shale/core';
import { takeFolders, type Places, type WorkerPool } from '@shale/engine';
import { indicesOf } from './carrying.ts';
import type { RunningJob } from './running.ts';

/** Looks whether what a job stopped for is back. @throws ShaleError of what is not */
export async function lookAgain(plan: Plan, places: Places): Promise<void> {
  takeFolders(plan, places);
  const { folder } = plan.into;
  await access(join(places.target, folder), constants.W_OK | constants.X_OK).catch((error: Error) => {
    throw new ShaleError({
      code: 'not-writable',
      fact: `The folder ${folder || 'of the results'} may not be written (${error.message}).`,
      wayOut: 'Give the account that runs Shale the right to write there, and press Continue.',
      subject: folder,
    });
  });
}

/** Results of some numbers that a job wrote, by their place. @throws ShaleError `result-changed` where a file is not what it wrote */
export async function toMakeAgain(
  { plan, journal }: RunningJob,
  places: Places,
  again: FrameRange[],
  pool: WorkerPool,
): Promise<number[]> {
  const { written } = await journal.read();
  const wanted = indicesOf(plan, (frame) => covers(again, frame)).flatMap((index) => written.get(index) ?? []);
  const lost = await pool.run('results', { plan, places, written: wanted });
  const changed = lost.find(({ failure }) => failure.code === 'result-changed');
  if (changed) throw new ShaleError(changed.failure);
  return wanted.map(({ index }) => index);
}

/** Refuses what a job in its state does not do. */
export const notSo = ({ row }: RunningJob, wayOut: string): ShaleError =>
  new ShaleError({ code: 'not-stopped', fact: `The job is ${row.state}.`, wayOut, subject: row.id });
