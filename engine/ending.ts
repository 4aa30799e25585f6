import { lstatSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { plural, resultsOf, type Failure, type Plan, type ReadFile, type Written } from '@shale/core';
import { holdFolder, type Held } from './beneath.ts';
import { sumOfFile } from './digests.ts';
import { piecesName } from './pieces.ts';
import type { Places } from './places.ts';
import { readAs, refuseTouched, SourceFiles } from './sourceFiles.ts';
import { partsOf, type Expected, type Placed } from './stamps.ts';

/** What was written, as a look at the end needs it. */
export type Kept = Pick<Written, 'index' | 'name' | 'bytes' | 'modified'>;

/** Results that are gone, or no longer what was written, by their place among the plan's. */
export type Lost = { index: number; failure: Failure };

/**
 * Looks at the end of a job whether what it wrote is there: name, size and time. What is not is told, result by result.
 * @throws ShaleError `folder-gone`
 */
export function lookAtResults(plan: Plan, places: Places, written: readonly Kept[]): Lost[] {
  const folder = holdFolder(places.target, plan.into.folder);
  try {
    return written.flatMap(({ index, name, bytes, modified }): Lost[] => {
      const told = lstatSync(join(folder.path, name), { throwIfNoEntry: false });
      if (told?.size === bytes && (modified === undefined || told.mtimeMs === modified)) return [];
      const [row] = resultsOf(plan, index, index + 1);
      const failure = {
        code: told ? 'result-changed' : 'result-gone',
        fact: told
          ? `${name} was written, but another program changed it since: ${told.size === bytes ? 'another program wrote to it' : `it has ${plural(told.size, 'byte')}, and ${bytes} were written`}.`
          : `${name} was written and no longer exists.`,
        wayOut: told
          ? 'Find what else writes to the folder; move that file away and press Continue to make it again.'
          : 'Find what else uses the folder, and press Continue to make it again.',
        subject: name,
        frame: row!.frame,
        sourceFrame: row!.sourceFrame,
        name,
      };
      return [{ index, failure }];
    });
  } finally {
    folder.close();
  }
}

/**
 * Checksums of the files that all results of a plan are made of: its clips and its sound. Those of single frames are taken
 * while they are read. @throws ShaleError `source-changed`
 */
export async function digestMedia(plan: Plan, places: Places, expected: Expected): Promise<ReadFile[]> {
  const media: Placed[] = partsOf(plan, places)
    .filter(({ source }) => source.kind === 'clip')
    .map(({ root, source: { folder, name } }) => ({ root, file: folder === '' ? name : `${folder}/${name}` }));
  if (plan.sound && !plan.sound.own) media.push({ root: places.sound!, file: plan.sound.file });
  const files = new SourceFiles(expected, places.follows);
  const read: ReadFile[] = [];
  for (const placed of media) {
    const one = files.hold(placed);
    try {
      read.push(readAs(placed, one, await sumOfFile(one.fd)));
      refuseTouched(placed, one);
    } finally {
      one.close();
    }
  }
  return read;
}

/** A temporary file, or the pieces of a video, of a command line by the number of its process. */
const ofCommand = /^\.shale-cli(\d+)(?:-\d+-\w+\.part|\.pieces)$/;

const lives = (process: string): boolean => {
  try {
    return readdirSync(`/proc/${process}`).length > 0;
  } catch {
    return false;
  }
};

/** Removes the pieces of a video that its job will not go on with; of a folder that is away nothing. */
export function sweepPieces(target: string, folder: string, job: string): void {
  let held: Held;
  try {
    held = holdFolder(target, folder);
  } catch {
    return;
  }
  try {
    rmSync(join(held.path, piecesName(job)), { recursive: true, force: true });
  } finally {
    held.close();
  }
}

/** Removes half files of a job, and of commands whose process is gone, from the folder that it writes. */
export function sweepHalves(target: string, folder: string, job: string): void {
  let names: string[];
  try {
    names = readdirSync(join(target, folder));
  } catch {
    return;
  }
  for (const name of names) {
    const command = ofCommand.exec(name);
    if (name.startsWith(`.shale-${job}-`) || (command && !lives(command[1]!)))
      rmSync(join(target, folder, name), { recursive: true, force: true });
  }
}
