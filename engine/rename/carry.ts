import { dirname, join } from 'node:path';
import pLimit from 'p-limit';
import { ShaleError } from '@shale/core';
import { foldersOf, StepFailed, type Disk } from '../disk/disk.ts';
import { beginRecord, noteStep, stepOf, thisProcess, type Head, type Record, type WorkMode } from './journal.ts';
import { renameOrder } from './order.ts';

/** New names that are to be given: rows from and to, below their roots, each of which changes. */
export interface RenameWork {
  /** Letters and digits; marks the journal and the temporary names. */
  id: string;
  mode: WorkMode;
  /** Absolute paths of the roots, and what a server calls them. */
  from: string;
  into: string;
  roots: [from: string, into: string];
  rows: { from: readonly string[]; to: readonly string[] };
  /** Told in the history. */
  sentence: string;
  undoes?: string;
  /** Absolute folders that are taken away afterwards where they are empty, the outer first: those that an undone rename made. */
  emptied?: readonly string[];
}

/** What it is carried out with. */
export interface Means {
  disk: Disk;
  /** Where journals are kept; absolute. */
  journals: string;
  signal?: AbortSignal;
  /** Files that are settled, of all. */
  onProgress?: (done: number, total: number) => void;
}

/** Files that are named between two looks at the signal. */
const batch = 5000;
/** Copies at a time. */
const copiesAtOnce = 4;

/** The temporary name of a row, beside where it goes. */
export const temporaryOf = (id: string, path: string, row: number): string =>
  join(dirname(path), `.shale-${id}-${row}.part`);

const absolute = (root: string, paths: readonly string[]): string[] => {
  const prefix = root.endsWith('/') ? root : `${root}/`;
  return paths.map((path) => prefix + path);
};

const known = new WeakMap<Record, { from: string[]; to: string[] }>();

/** Paths of a record as the disk has them. */
export function pathsOf(record: Record): { from: string[]; to: string[] } {
  const held = known.get(record);
  if (held) return held;
  const { head, files } = record;
  const from = absolute(
    head.from,
    files.map(([path]) => path),
  );
  const to = absolute(
    head.into,
    files.map(([, path]) => path),
  );
  known.set(record, { from, to });
  return { from, to };
}

const device = (who: string): string => who.slice(0, who.indexOf(':'));
/** Who a file is without regard to what it holds now. */
export const inode = (who: string): string => who.split(':', 2).join(':');

/** Folders that a rename makes, the outer first. */
async function missingFolders(disk: Disk, to: readonly string[]): Promise<string[]> {
  const missing = new Set<string>();
  let ask = foldersOf(to);
  while (ask.length > 0) {
    const who = await disk.identify(ask);
    const absent = ask.filter((_, at) => who[at] === '');
    for (const folder of absent) missing.add(folder);
    ask = [...new Set(absent.map((folder) => dirname(folder)))].filter((folder) => !missing.has(folder));
  }
  return [...missing].sort((a, b) => a.length - b.length);
}

/** Whether any file would leave its disk. */
async function crosses(
  disk: Disk,
  who: readonly string[],
  to: readonly string[],
  missing: readonly string[],
): Promise<boolean> {
  const there = foldersOf(to).map((folder) => {
    let at = folder;
    while (missing.includes(at)) at = dirname(at);
    return at;
  });
  const targets = new Set((await disk.identify(there)).map(device));
  return who.some((one) => !targets.has(device(one))) || targets.size > 1;
}

/**
 * Gives files their new names, all or none. Everything is noted first; files in a circle go aside, then each takes its name; a
 * copy is whole, compared and flushed before it gets one. What fails is taken back before this throws.
 * @throws ShaleError with the fact; everything is as it was then, unless it says otherwise (`rename-stuck`)
 */
export async function carryOutRename(work: RenameWork, means: Means): Promise<Record> {
  const { disk, journals } = means;
  const from = absolute(work.from, work.rows.from);
  const to = absolute(work.into, work.rows.to);
  const who = await disk.identify(from);
  const gone = who.findIndex((one) => one === '' || one.endsWith(':other'));
  if (gone >= 0) {
    throw new ShaleError({
      code: 'source-changed',
      fact: `${work.rows.from[gone]!} is ${who[gone] === '' ? 'no longer there' : 'not a regular file'}.`,
      wayOut: 'Nothing has been touched. Check the names again and run.',
      subject: work.rows.from[gone]!,
    });
  }
  const missing = work.mode === 'remove' ? [] : await missingFolders(disk, to);
  const across = work.mode !== 'remove' && work.mode !== 'copy' && (await crosses(disk, who, to, missing));
  if (across && work.mode === 'link') {
    throw new ShaleError({
      code: 'other-disk',
      fact: 'The folder is on another disk, and hard links cannot cross disks.',
      wayOut: 'Copy instead, or choose a folder on the same disk.',
      subject: work.roots[1],
    });
  }
  const head: Head = {
    rename: 1,
    id: work.id,
    mode: work.mode,
    from: work.from,
    into: work.into,
    roots: work.roots,
    across,
    folders: [...missing, ...(work.emptied ?? [])],
    undoes: work.undoes ?? null,
    sentence: work.sentence,
    begun: new Date().toISOString(),
    owner: thisProcess,
    files: from.length,
  };
  const record: Record = {
    head,
    files: from.map((_, row) => [work.rows.from[row]!, work.rows.to[row]!, who[row]!]),
    steps: [],
  };
  const note = async (step: Record['steps'][0]) => {
    await noteStep(disk, journals, head.id, step);
    record.steps.push(step);
  };
  await beginRecord(disk, journals, head, record.files);
  record.steps.push({ step: 'ready' });
  try {
    if (work.mode !== 'remove') {
      for (const folder of missing) await disk.makeFolder(folder);
      await give(record, means, note);
      await note({ step: 'named' });
    }
  } catch (error) {
    if (error instanceof Died) throw error;
    const told = explain(error, record);
    await takeBack(record, disk, journals, told.fact).catch((again: unknown) => {
      // Names are back, and only the note of it may be missing: the next start finds them so, and notes it.
      if (again instanceof ShaleError || again instanceof Died) throw again;
    });
    throw told;
  }
  await finish(record, disk, journals);
  return record;
}

/** Thrown by a disk that is no longer there: nothing can be taken back any more. Tests end a process so. */
export class Died extends Error {}

const stopIf = (signal: AbortSignal | undefined): void => {
  if (!signal?.aborted) return;
  throw new ShaleError({ code: 'stopped', fact: 'It was stopped.', wayOut: 'Everything is as it was before.' });
};

/** Names in batches, so that progress is told and a stop heard. */
async function nameAll(
  from: readonly string[],
  to: readonly string[],
  { disk, signal, onProgress }: Means,
): Promise<void> {
  for (let at = 0; at < from.length; at += batch) {
    stopIf(signal);
    try {
      await disk.renameAll(from.slice(at, at + batch), to.slice(at, at + batch));
    } catch (error) {
      throw error instanceof StepFailed ? new StepFailed(at + error.done, error.code, error.message) : error;
    }
    onProgress?.(Math.min(from.length, at + batch), from.length);
  }
}

async function give(record: Record, means: Means, note: (step: Record['steps'][0]) => Promise<void>): Promise<void> {
  const { head, files } = record;
  const { disk, signal, onProgress } = means;
  const { from, to } = pathsOf(record);
  if (head.mode === 'link') {
    for (let row = 0; row < from.length; row += 1) {
      if (row % 100 === 0) stopIf(signal);
      await disk.link(from[row]!, to[row]!).catch((error: NodeJS.ErrnoException) => {
        throw new StepFailed(row, error.code ?? '', error.message);
      });
      if (row % 100 === 0) onProgress?.(row, from.length);
    }
    return;
  }
  if (head.mode !== 'copy' && !head.across) {
    const { aside, order } = renameOrder(from, to);
    const now = [...from];
    for (const row of aside) now[row] = temporaryOf(head.id, from[row]!, row);
    await disk.renameAll(
      aside.map((row) => from[row]!),
      aside.map((row) => now[row]!),
    );
    await nameAll(
      order.map((row) => now[row]!),
      order.map((row) => to[row]!),
      means,
    );
    return;
  }
  const parts = to.map((path, row) => temporaryOf(head.id, path, row));
  const side = pLimit(copiesAtOnce);
  let failed = false;
  let done = 0;
  const outcomes = await Promise.allSettled(
    from.map((path, row) =>
      side(async () => {
        if (failed) return;
        try {
          stopIf(signal);
          await copyWhole(disk, path, parts[row]!, files[row]![2], head.across);
          onProgress?.((done += 1), from.length);
        } catch (error) {
          failed = true;
          throw error instanceof ShaleError || error instanceof Died
            ? error
            : new StepFailed(row, (error as NodeJS.ErrnoException).code ?? '', (error as Error).message);
        }
      }),
    ),
  );
  for (const outcome of outcomes) if (outcome.status === 'rejected') throw outcome.reason;
  await note({ step: 'copied', copies: await disk.identify(parts) });
  await nameAll(parts, to, { ...means, onProgress: undefined });
}

/** A copy of a file that stays the same meanwhile; one whose original will go is compared byte for byte. */
async function copyWhole(disk: Disk, from: string, part: string, who: string, compare: boolean): Promise<void> {
  await disk.copy(from, part);
  const [after] = await disk.identify([from]);
  const whole = after === who && (!compare || (await disk.same(from, part)));
  if (whole) return;
  throw new ShaleError({
    code: 'source-changed',
    fact: `${from.slice(from.lastIndexOf('/') + 1)} changed while it was copied.`,
    wayOut: 'Everything is as it was. Wait until no program writes to it, and run again.',
    subject: from,
  });
}

/** What went wrong, for a person. */
function explain(error: unknown, { files, head }: Record): ShaleError {
  if (error instanceof ShaleError) return error;
  const failed = error as StepFailed;
  const row = files[failed.done] ?? files[0]!;
  const name = row[1].slice(row[1].lastIndexOf('/') + 1);
  const asBefore = 'Everything is as it was.';
  const told: { [code: string]: [code: string, fact: string, wayOut: string] } = {
    EEXIST: ['taken', 'Another program took one of the names during the rename.', 'Check the names again and run.'],
    ENOENT: ['source-changed', 'Another program removed a file during the rename.', 'Check the names again and run.'],
    ENOSPC: ['disk-full', `The disk is full: ${name} could not be written.`, 'Free some space and run again.'],
    EDQUOT: ['disk-full', `The disk quota is used up: ${name} could not be written.`, 'Free some space and run again.'],
    EACCES: [
      'not-writable',
      `The names in ${head.into} cannot be changed: permission denied.`,
      'Give the account that runs Shale the right to write there.',
    ],
    EPERM: [
      'not-writable',
      `The names in ${head.into} cannot be changed: permission denied.`,
      'Give the account that runs Shale the right to write there.',
    ],
    EROFS: ['not-writable', 'The disk is read-only.', 'Choose another folder.'],
    EMLINK: ['too-many-links', `${name} has the most links that the file system allows.`, 'Copy instead.'],
  };
  const [code, fact, wayOut] = told[failed.code] ?? [
    'rename-failed',
    `${name} could not be named: ${failed.message}.`,
    'Check the disk.',
  ];
  return new ShaleError({ code, fact, wayOut: `${asBefore} ${wayOut}`, subject: row[0] });
}

/** Does what is left once every file has its name: originals of another disk go, folders that are empty now, and it is noted. */
export async function finish(record: Record, disk: Disk, journals: string): Promise<void> {
  const { head, files } = record;
  const { from, to } = pathsOf(record);
  if (head.mode === 'remove' || head.across) {
    const now = await disk.identify(from);
    for (let row = 0; row < from.length; row += 1) if (now[row] === files[row]![2]) await disk.remove(from[row]!);
  }
  if (head.undoes !== null) for (const folder of [...head.folders].reverse()) await disk.removeFolder(folder);
  const kept = head.mode === 'remove' ? from : [...from, ...to];
  const folders = foldersOf(kept);
  const there = await disk.identify(folders);
  for (const [at, folder] of folders.entries()) if (there[at] !== '') await disk.flushFolder(folder);
  const at = new Date().toISOString();
  if (head.undoes !== null) await noteStep(disk, journals, head.undoes, { step: 'undone', at, by: head.id });
  await end(record, disk, journals, { step: 'done', at });
}

async function end(record: Record, disk: Disk, journals: string, step: Record['steps'][0]): Promise<void> {
  await noteStep(disk, journals, record.head.id, step);
  record.steps.push(step);
}

/**
 * Brings the old names back, wherever the files are now; a second call goes on where a first was cut off.
 * @throws ShaleError `rename-stuck` naming what could not be brought back
 */
export async function takeBack(record: Record, disk: Disk, journals: string, why: string): Promise<void> {
  const { head } = record;
  const lost =
    head.mode === 'link' || head.mode === 'copy' || head.across
      ? await dropMade(record, disk)
      : await bringHome(record, disk);
  const made = head.undoes === null ? head.folders : [];
  for (const folder of [...made].reverse()) await disk.removeFolder(folder);
  const at = new Date().toISOString();
  if (lost.length === 0) return end(record, disk, journals, { step: 'back', at, why });
  const fact = `${why} Of its files ${lost.slice(0, 3).join(', ')}${lost.length > 3 ? ` and ${lost.length - 3} more` : ''} could not get their old names back.`;
  await end(record, disk, journals, { step: 'stuck', at, why: fact });
  throw new ShaleError({
    code: 'rename-stuck',
    fact,
    wayOut: `Another program changed them in the meantime; journal ${head.id} has every old and new name.`,
    subject: lost[0]!,
  });
}

/** Takes away copies and links that were made: only what is ours by its inode. */
async function dropMade(record: Record, disk: Disk): Promise<string[]> {
  const { head, files } = record;
  const { to } = pathsOf(record);
  const parts = to.map((path, row) => temporaryOf(head.id, path, row));
  const copies = stepOf(record, 'copied')?.copies;
  const ours = (row: number): string | undefined => (head.mode === 'link' ? files[row]![2] : copies?.[row]);
  const [there, unnamed] = await Promise.all([disk.identify(to), disk.identify(parts)]);
  for (let row = 0; row < to.length; row += 1) {
    if (unnamed[row] !== '') await disk.remove(parts[row]!);
    const own = ours(row);
    if (there[row] !== '' && own !== undefined && inode(there[row]!) === inode(own)) await disk.remove(to[row]!);
  }
  return [];
}

/** Gives files their old names again. @returns names of those that could not get it */
async function bringHome(record: Record, disk: Disk): Promise<string[]> {
  const { head, files } = record;
  const { from, to } = pathsOf(record);
  const aside = from.map((path, row) => temporaryOf(head.id, path, row));
  const [atHome, atAside, atNew] = await Promise.all([disk.identify(from), disk.identify(aside), disk.identify(to)]);
  const is = (who: string, row: number): boolean => who !== '' && inode(who) === inode(files[row]![2]);
  const away: { row: number; at: string }[] = [];
  const lost: string[] = [];
  for (let row = 0; row < from.length; row += 1) {
    if (is(atHome[row]!, row)) continue;
    if (is(atAside[row]!, row)) away.push({ row, at: aside[row]! });
    else if (is(atNew[row]!, row)) away.push({ row, at: to[row]! });
    else lost.push(files[row]![0]);
  }
  // A stranger in an old name's place keeps it: its owner stays where it is now.
  const moving = new Set(away.map(({ at }) => at));
  const free = away.filter(({ row }) => atHome[row] === '' || moving.has(from[row]!));
  const goes = new Set(free);
  for (const one of away) if (!goes.has(one)) lost.push(files[one.row]![0]);
  const back = renameOrder(
    free.map(({ at }) => at),
    free.map(({ row }) => from[row]!),
  );
  const now = free.map(({ at }) => at);
  for (const place of back.aside) {
    const temporary = aside[free[place]!.row]!;
    if (now[place] === temporary) continue;
    await disk.renameAll([now[place]!], [temporary]);
    now[place] = temporary;
  }
  const order = back.order.filter((place) => now[place] !== from[free[place]!.row]);
  await disk.renameAll(
    order.map((place) => now[place]!),
    order.map((place) => from[free[place]!.row]!),
  );
  return lost;
}
