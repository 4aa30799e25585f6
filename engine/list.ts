import { lstatSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { isAnimationJson } from '@shale/media/animationJson.ts';
import {
  describeFolder,
  describeSingle,
  findingsOf,
  ShaleError,
  type Described,
  type FrameNumber,
  type Moment,
  type Problem,
} from '@shale/core';

/** What a folder's listing gave. */
export interface Listed {
  /** Folders directly in it, below the root, by name. */
  subfolders: string[];
  sequences: Described[];
  /** Clips, stills and sounds, a place in each column for every one: there may be a hundred thousand. */
  singles: { kinds: ('clip' | 'still' | 'sound')[]; names: string[]; bytes: Float64Array; modified: Float64Array };
  /** Names that are no footage. */
  other: string[];
  /** What could not be listed and why: names that are not UTF-8, links. */
  notes: Problem[];
  files: number;
}

/** Why a root itself cannot be scanned. */
export function rootError(root: string, error: unknown): ShaleError {
  const { code, message } = error as NodeJS.ErrnoException;
  if (code === 'ENOENT')
    return new ShaleError({
      code: 'folder-not-found',
      fact: `There is no folder ${root}.`,
      wayOut: 'Check the path, or whether the disk is mounted.',
      subject: root,
    });
  if (code === 'ENOTDIR')
    return new ShaleError({
      code: 'not-a-folder',
      fact: `${root} is a file, not a folder.`,
      wayOut: 'Name the folder that holds it.',
      subject: root,
    });
  if (code === 'EACCES' || code === 'EPERM')
    return new ShaleError({
      code: 'not-allowed',
      fact: `The folder ${root} cannot be read: permission denied.`,
      wayOut: 'Give the account that runs Shale the right to read it.',
      subject: root,
    });
  return new ShaleError({
    code: 'scan-failed',
    fact: `The folder ${root} cannot be scanned: ${message}.`,
    wayOut: 'Check the disk.',
    subject: root,
  });
}

const shown = (names: string[]): string =>
  names.slice(0, 3).join(', ') + (names.length > 3 ? ` and ${names.length - 3} more` : '');

/** What stands for bytes that are no UTF-8 in a name that the system gives. */
const foreign = '\ufffd';

const here = (folder: string): string => (folder === '' ? 'the root' : folder);

/**
 * Lists one folder and sorts it into sources, with what names, sizes and times tell of them. Synchronous: on a local disk
 * that is several times quicker than asking for thousands of files one by one, and it runs in a worker process.
 * @param folder below the root, with `/`, empty for the root itself
 * @param frameNumber which number of a name counts the frames, where a person says so
 * @throws what the file system says where the folder cannot be listed
 */
export function listFolder(root: string, folder: string, moment: Moment, frameNumber?: FrameNumber): Listed {
  const at = join(root, folder);
  if (folder === '' && !statSync(at).isDirectory()) throw Object.assign(new Error('not a folder'), { code: 'ENOTDIR' });
  const below = (name: string): string => (folder === '' ? name : `${folder}/${name}`);
  const subfolders: string[] = [];
  const links: string[] = [];
  const unreadable: string[] = [];
  const names: string[] = [];
  for (const entry of readdirSync(at, { withFileTypes: true })) {
    const { name } = entry;
    if (entry.isDirectory()) {
      if (!name.startsWith('.')) subfolders.push(below(name));
    } else if (entry.isSymbolicLink()) links.push(name);
    else if (entry.isFile()) names.push(name);
  }
  const bytes = new Float64Array(names.length);
  const modified = new Float64Array(names.length);
  const prefix = at.endsWith('/') ? at : `${at}/`;
  let kept = 0;
  for (let index = 0; index < names.length; index += 1) {
    const name = names[index]!;
    const told = lstatSync(prefix + name, { throwIfNoEntry: false });
    if (!told) {
      // A file that vanished between listing and asking was never there; one whose name is no UTF-8 cannot be asked for.
      if (name.includes(foreign)) unreadable.push(name);
      continue;
    }
    names[kept] = name;
    bytes[kept] = told.size;
    modified[kept] = told.mtimeMs;
    kept += 1;
  }
  names.length = kept;
  const { sequences, singles, other: rest } = describeFolder(folder, { names, bytes, modified }, frameNumber);
  const told = new Set(rest.filter((name) => isAnimationJson(prefix + name)));
  const other = rest.filter((name) => !told.has(name));
  names.forEach((name, at) => {
    if (told.has(name)) singles.push(describeSingle(folder, 'still', name, bytes[at]!, modified[at]!));
  });
  const notes: Problem[] = [];
  if (unreadable.length > 0) {
    notes.push({
      code: 'name-not-utf8',
      fact: `${unreadable.length === 1 ? 'A name' : `${unreadable.length} names`} in ${here(folder)} ${unreadable.length === 1 ? 'is' : 'are'} not UTF-8: ${shown(unreadable)}.`,
      wayOut: 'Rename them on the system that made them, or with a program that knows their encoding; then scan again.',
      subject: folder,
    });
  }
  if (links.length > 0) {
    notes.push({
      code: 'links-not-followed',
      fact: `${links.length === 1 ? 'A link' : `${links.length} links`} in ${here(folder)} ${links.length === 1 ? 'is' : 'are'} not followed: ${shown(links.sort())}.`,
      wayOut: 'Put the files themselves there, or add their folder as a root.',
      subject: folder,
    });
  }
  return {
    subfolders: subfolders.sort(),
    sequences: sequences.map(({ source, columns }) => ({
      source: { ...source, findings: findingsOf(source, { columns, moment }) },
      columns,
    })),
    singles: {
      kinds: singles.map(({ kind }) => kind as 'still'),
      names: singles.map(({ name }) => name),
      bytes: Float64Array.from(singles, (single) => single.bytes),
      modified: Float64Array.from(singles, (single) => single.modified),
    },
    other: [...other, ...links, ...unreadable].sort(),
    notes,
    files: kept + links.length + unreadable.length,
  };
}
