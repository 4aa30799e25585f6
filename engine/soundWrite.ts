import { mkdir, open, rm, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { ShaleError, type SoundPlan, type SoundReceipt } from '@shale/core';
import { writeSounds } from '@shale/media';
import { digestOf } from './digests.ts';
import { flush, flushFolder, publish, writeError } from './files.ts';
import { temporaryName } from './frame.ts';
import { gone } from './lost.ts';
import { nothingExpected } from './stamps.ts';
import { holdTarget } from './target.ts';

/** A sound to be written. */
export interface SoundWork {
  plan: SoundPlan;
  /** The file that it is in. */
  path: string;
  /** The root that the results go into, absolute, and the folder below it. */
  target: string;
  folder: string;
  /** Marks the temporary files. */
  job: string;
  replaces: boolean;
}

/** Bytes of a file, and their SHA-256. */
async function toldOf(path: string): Promise<{ bytes: number; sha256: string }> {
  const file = await open(path);
  try {
    return { bytes: (await file.stat()).size, sha256: await digestOf(file.fd) };
  } finally {
    await file.close();
  }
}

/** A sound is never written over itself. @throws ShaleError `output-exists` */
async function refuseItself(source: string, results: readonly string[]): Promise<void> {
  const own = await stat(source);
  for (const result of results) {
    const there = await stat(result).catch(() => undefined);
    if (there?.ino === own.ino && there.dev === own.dev)
      throw new ShaleError({
        code: 'output-exists',
        fact: `${basename(result)} is the sound itself; it was not touched.`,
        wayOut: 'Choose another folder or name.',
        subject: result,
      });
  }
}

/**
 * Writes a sound as its plan says, reads it back, and gives the files their names: all of them, or none.
 * @throws ShaleError of what cannot be read or written; `read-back-failed` where a sample is not what was meant
 */
export async function convertSound(
  { plan, path, target, folder, job, replaces }: SoundWork,
  signal: AbortSignal,
): Promise<SoundReceipt> {
  await mkdir(join(target, folder), { recursive: true }).catch((error: unknown) => {
    throw writeError(join(target, folder, plan.files[0]!.name), error);
  });
  const held = holdTarget(target, join(folder, plan.files[0]!.name), nothingExpected);
  const final = plan.files.map(({ name }) => join(held.path, name));
  const temporary = plan.files.map((_, at) => join(held.path, temporaryName(job, at)));
  const named: string[] = [];
  try {
    await refuseItself(path, final);
    const { gain, held: isHeld, clipped, same, facts } = await writeSounds(path, plan, temporary, signal);
    if (signal.aborted) throw gone();
    if (same === false)
      throw new ShaleError({
        code: 'read-back-failed',
        fact: `${plan.files[0]!.name}: what was read back is not what was written.`,
        wayOut: 'Check the disk, and write it again.',
        subject: plan.files[0]!.name,
      });
    const files: SoundReceipt['files'] = [];
    for (const [at, { name }] of plan.files.entries()) {
      await flush(temporary[at]!);
      const { samples, rate, channels, loudness, truePeaks } = facts[at]!;
      const truePeak = Math.max(...truePeaks);
      files.push({ name, ...(await toldOf(temporary[at]!)), samples, rate, channels, loudness, truePeak });
    }
    for (const [at, one] of final.entries()) if (await publish(temporary[at]!, one, replaces)) named.push(one);
    await flushFolder(held);
    const losses = [...plan.losses];
    if (isHeld) losses.push(`The true peak keeps it at ${files[0]!.loudness?.toFixed(1) ?? 'no'} LUFS.`);
    if (clipped > 0) losses.push(`${clipped.toLocaleString('en-GB')} samples beyond full scale were clipped.`);
    return { sentence: plan.sentence, losses, folder, gain, clipped, same, files };
  } catch (error) {
    for (const one of named) await rm(one, { force: true });
    throw writeError(join(target, folder, plan.files[0]!.name), error);
  } finally {
    for (const one of temporary) await rm(one, { force: true });
    held.close();
  }
}
