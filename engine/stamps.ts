import { statSync } from 'node:fs';
import { join } from 'node:path';
import {
  fileOfFrame,
  framesOf,
  joinedIn,
  otherFiles,
  plural,
  ShaleError,
  stampOf,
  type Plan,
  type PlannedSource,
  type PlanRow,
  type Problem,
} from '@shale/core';
import { folderIdentity, holdFolder } from './beneath.ts';
import { shotRoot, type Places } from './places.ts';
import { loadReadings } from './readings.ts';

/** What tells a file as it lies there from what it was before. */
export interface FileStamp {
  bytes: number;
  /** Milliseconds since 1970. */
  modified: number;
  inode: number;
}

/** Of a stamp that a listing gave. */
export const unknownInode = -1;

/** What all files of a plan were when its job began, by {@link keyOf}. A plain value: it is sent, and kept beside the journal. */
export interface Stamps {
  keys: string[];
  bytes: Float64Array;
  modified: Float64Array;
  inodes: Float64Array;
}

/** A file below a root. */
export interface Placed {
  /** Absolute. */
  root: string;
  file: string;
}

export const keyOf = ({ root, file }: Placed): string => `${root}\0${file}`;

/** A source of a plan, and where its root lies. */
export interface Part {
  /** Absolute. */
  root: string;
  /** The root as the plan names it. */
  id: string;
  source: PlannedSource;
}

/** All sources of a plan but its sound: the shots, the second sources, those that channels are taken from. */
export function partsOf(plan: Plan, places: Places): Part[] {
  const parts: Part[] = [{ root: places.source, id: plan.root, source: plan.source }];
  plan.shots.forEach(({ root: id, source }, at) => parts.push({ root: places.shots![at]!, id, source }));
  for (const role of ['under', 'alphaFrom'] as const) {
    const other = plan.others[role];
    if (other) parts.push({ root: places.others![role]!, id: other.root, source: other.source });
  }
  plan.joined.forEach(({ root: id, source }, at) => parts.push({ root: places.joined![at]!, id, source }));
  return parts;
}

/** The files that a result is made of; none where no file of a frame goes into it. */
export function filesOfRow(plan: Plan, places: Places, row: PlanRow): Placed[] {
  if (row.from === undefined) return [];
  const root = shotRoot(places, row.shot);
  const files: Placed[] = [{ root, file: row.from }];
  if (row.mixed) files.push({ root, file: row.mixed.from });
  for (const [role, { file }] of Object.entries(otherFiles(plan, row.sourceFrame)))
    files.push({ root: places.others![role as 'under']!, file });
  joinedIn(plan.spec.channels).forEach((_, at) => {
    const file = plan.joined[at] && fileOfFrame(plan.joined[at].source, row.sourceFrame);
    if (file !== undefined) files.push({ root: places.joined![at]!, file });
  });
  return files;
}

/** How many names a message gives before it counts the rest. */
const shown = 3;

function changed({ source }: Part, newer: string[], gone: string[]): Problem {
  const named = newer.length > 0 ? newer : gone;
  const list = named.slice(0, shown).join(', ') + (named.length > shown ? ` and ${named.length - shown} more` : '');
  const why =
    named.length === 0
      ? 'its files are not those of the plan'
      : `${plural(named.length, 'file')} ${newer.length > 0 ? (newer.length === 1 ? 'is newer' : 'are newer') : named.length === 1 ? 'is gone' : 'are gone'}: ${list}`;
  return {
    code: 'source-changed',
    fact: `${source.name} changed since it was scanned; ${why}.`,
    wayOut: 'Scan again, check it, and run the new plan.',
    subject: source.name,
  };
}

/** What a listing that a plan was made of says of each frame; undefined where what was kept is not of that listing. */
async function plannedColumns({ source }: Part, readings: string | null): Promise<Map<number, FileStamp> | undefined> {
  if (readings === null || !source.pattern) return undefined;
  const kept = (await loadReadings(readings)).sequences.get(source.name)?.columns;
  if (!kept || stampOf(kept) !== source.stamp) return undefined;
  return new Map(
    Array.from(kept.frames, (frame, at) => [
      frame,
      { bytes: kept.bytes[at]!, modified: kept.modified[at]!, inode: unknownInode },
    ]),
  );
}

/** How stamps of a plan are taken. */
export interface StampsWanted {
  plan: Plan;
  places: Places;
  /** Where readings of each part's folder are kept, in the order of {@link partsOf}; null where there are none. */
  readings: (string | null)[];
  /** Whether files that are not those that the plan was made of are taken. */
  takes: boolean;
}

/**
 * Looks at every file of a plan's sources, and at whether they are those that it was made of. Where it is known which of them are
 * not, they get the stamp that they had, so that each is told when its turn comes.
 * @throws ShaleError `source-changed` where that is not known
 */
export async function takeStamps({ plan, places, readings, takes }: StampsWanted): Promise<Stamps> {
  const taken: [string, FileStamp][] = [];
  for (const [at, part] of partsOf(plan, places).entries()) {
    const { source, root } = part;
    const gone: string[] = [];
    const there: { frame: number; key: string; name: string; stamp: FileStamp }[] = [];
    for (const frame of source.pattern ? framesOf(source.coverage) : [0]) {
      const file = fileOfFrame(source, frame)!;
      const name = file.slice(file.lastIndexOf('/') + 1);
      const told = statSync(join(root, file), { throwIfNoEntry: false });
      if (!told) gone.push(name);
      else {
        const stamp = { bytes: told.size, modified: told.mtimeMs, inode: told.ino };
        there.push({ frame, key: keyOf({ root, file }), name, stamp });
      }
    }
    const isPlanned =
      source.stamp === undefined ||
      source.stamp ===
        stampOf({
          frames: Float64Array.from(there, ({ frame }) => frame),
          bytes: Float64Array.from(there, ({ stamp }) => stamp.bytes),
          modified: Float64Array.from(there, ({ stamp }) => stamp.modified),
        });
    const planned = isPlanned ? undefined : await plannedColumns(part, readings[at] ?? null);
    const newer = there.filter(({ stamp }) => source.modified !== undefined && stamp.modified > source.modified);
    if (!isPlanned && !planned && !takes)
      throw new ShaleError(
        changed(
          part,
          newer.map(({ name }) => name),
          gone,
        ),
      );
    const isNewer = new Set(newer.map(({ key }) => key));
    for (const { frame, key, stamp } of there) {
      const was = planned?.get(frame);
      const same = was ? was.bytes === stamp.bytes && was.modified === stamp.modified : isPlanned || !isNewer.has(key);
      taken.push([key, same ? stamp : (was ?? { ...stamp, modified: -1 })]);
    }
  }
  return {
    keys: taken.map(([key]) => key),
    bytes: Float64Array.from(taken, ([, { bytes }]) => bytes),
    modified: Float64Array.from(taken, ([, { modified }]) => modified),
    inodes: Float64Array.from(taken, ([, { inode }]) => inode),
  };
}

/** What a job expects to find while it runs. */
export interface Expected {
  /** Its files, by {@link keyOf}; one that may be another by now (a frame that is tried again) is taken as it is, and told. */
  files: ReadonlyMap<string, FileStamp & { takes: boolean }>;
  /** Which folder each is, by {@link keyOf}, so that the empty place of a disk that is gone is not taken for it. */
  folders: ReadonlyMap<string, string>;
}

export const nothingExpected: Expected = { files: new Map(), folders: new Map() };

/** What rows are to find, looked up among all stamps of their plan. */
export class Expectations {
  private readonly at: Map<string, number>;

  constructor(
    private readonly stamps: Stamps,
    private readonly folders: ReadonlyMap<string, string>,
  ) {
    this.at = new Map(stamps.keys.map((key, at) => [key, at]));
  }

  /** @param takes whether files that changed are taken, for each row */
  of(plan: Plan, places: Places, rows: readonly PlanRow[], takes: (row: PlanRow) => boolean): Expected {
    const files = new Map<string, FileStamp & { takes: boolean }>();
    for (const row of rows) {
      for (const one of filesOfRow(plan, places, row)) {
        const key = keyOf(one);
        const at = this.at.get(key);
        if (at === undefined) continue;
        const { bytes, modified, inodes } = this.stamps;
        const stamp = { bytes: bytes[at]!, modified: modified[at]!, inode: inodes[at]! };
        files.set(key, { ...stamp, takes: takes(row) || (files.get(key)?.takes ?? false) });
      }
    }
    return { files, folders: this.folders };
  }
}

/** The folders of a plan as they are now: those of its sources and the one that is written. @throws ShaleError `folder-gone` */
export function takeFolders(plan: Plan, places: Places): Map<string, string> {
  const folders = new Map<string, string>();
  const wanted = [
    ...partsOf(plan, places).map(({ root, source: { folder } }) => ({ root, folder, what: 'of the source' })),
    { root: places.target, folder: plan.into.folder, what: 'of the results' },
  ];
  for (const { root, folder, what } of wanted) {
    try {
      const one = holdFolder(root, folder);
      folders.set(keyOf({ root, file: folder }), folderIdentity(one));
      one.close();
    } catch (error) {
      if (error instanceof ShaleError) throw error;
      throw folderGone(folder, what, (error as NodeJS.ErrnoException).code);
    }
  }
  return folders;
}

/** A folder that a job needs and cannot enter: it stops, and goes on when that is back. @param what `of the source` or `of the results` */
export function folderGone(folder: string, what: string, code?: string): ShaleError {
  const name = folder === '' ? `The root ${what}` : `The folder ${folder} ${what}`;
  if (code === 'EACCES' || code === 'EPERM')
    return new ShaleError({
      code: 'folder-denied',
      fact: `${name} cannot be opened: permission denied.`,
      wayOut: 'Correct its permissions and press Continue; written files stay.',
      subject: folder,
    });
  return new ShaleError({
    code: 'folder-gone',
    fact: `${name} no longer exists, or its disk is missing.`,
    wayOut: 'Put it back, or mount its disk again, and press Continue; written files stay.',
    subject: folder,
  });
}
