import { mkdir, open, rm, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { ShaleError } from '@shale/core';
import { digestOf } from './digests.ts';
import { fewError, flush, flushFolder, publish, writeError } from './files.ts';
import { temporaryName } from './frame.ts';
import { nothingExpected } from './stamps.ts';
import { holdTarget } from './target.ts';

/** Where a few files go that belong together. */
export interface Few {
  /** The root that they go into, absolute, and the folder below it. */
  target: string;
  folder: string;
  names: readonly string[];
  /** Marks the temporary files. */
  job: string;
  replaces: boolean;
  /** What they are made of: none of it is written over. */
  sources: readonly string[];
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

/** Nothing is written over what it is made of. @throws ShaleError `output-exists` */
async function refuseItself(source: string, results: readonly string[]): Promise<void> {
  const own = await stat(source).catch(() => undefined);
  for (const result of own ? results : []) {
    const there = await stat(result).catch(() => undefined);
    if (there?.ino === own!.ino && there.dev === own!.dev)
      throw new ShaleError({
        code: 'output-exists',
        fact: `${basename(result)} is the source itself; it was not touched.`,
        wayOut: 'Choose another folder or name.',
        subject: result,
      });
  }
}

/**
 * Writes a few files under temporary names, and once all are whole gives them their own: all of them, or none.
 * @param make writes them, and refuses what it has not made well
 * @throws ShaleError of what cannot be written, and what `make` throws
 */
export async function publishFew<T>(
  { target, folder, names, job, replaces, sources }: Few,
  make: (temporary: string[]) => Promise<T>,
): Promise<{ made: T; files: { name: string; bytes: number; sha256: string }[] }> {
  const first = join(target, folder, names[0]!);
  await mkdir(join(target, folder), { recursive: true }).catch((error: unknown) => {
    throw writeError(first, error);
  });
  const held = holdTarget(target, join(folder, names[0]!), nothingExpected);
  const final = names.map((name) => join(held.path, name));
  const temporary = names.map((_, at) => join(held.path, temporaryName(job, at)));
  const named: string[] = [];
  try {
    for (const source of sources) await refuseItself(source, final);
    const made = await make(temporary);
    const files = [];
    for (const [at, name] of names.entries()) {
      await flush(temporary[at]!);
      files.push({ name, ...(await toldOf(temporary[at]!)) });
    }
    for (const [at, one] of final.entries()) if (await publish(temporary[at]!, one, replaces)) named.push(one);
    await flushFolder(held);
    return { made, files };
  } catch (error) {
    for (const one of named) await rm(one, { force: true });
    throw await fewError(first, held.path, error);
  } finally {
    for (const one of temporary) await rm(one, { force: true });
    held.close();
  }
}
