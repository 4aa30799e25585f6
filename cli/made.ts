import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { deserialize, serialize } from 'node:v8';
import { digestOfMaking, type Plan, type Written } from '@shale/core';
import type { Earlier } from '@shale/engine';

/** Runs that are kept of one source and one way of making. */
const keptRuns = 6;

const pathOf = (folder: string, plan: Plan): string => join(folder, `${digestOfMaking(plan)}.made`);

/** What earlier runs of the command line made of a source in the same way, the newest first. */
export async function madeBefore(folder: string, plan: Plan): Promise<Earlier[]> {
  try {
    return deserialize(await readFile(pathOf(folder, plan))) as Earlier[];
  } catch {
    return [];
  }
}

/** Keeps what a run made; what cannot be kept is made again the next time. */
export async function keepMade(folder: string, one: Earlier & { written: readonly Written[] }): Promise<void> {
  try {
    const path = pathOf(folder, one.plan);
    const all = [one, ...(await madeBefore(folder, one.plan))].slice(0, keptRuns);
    await mkdir(folder, { recursive: true });
    // Two command lines may note the same at once.
    const half = `${path}.${process.pid}.part`;
    await writeFile(half, serialize(all));
    await rename(half, path);
  } catch {
    // A disk that is full, or a folder that may not be written.
  }
}
