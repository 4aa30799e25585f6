import { lstatSync, statSync } from 'node:fs';
import { join } from 'node:path';
import {
  kindOfSum,
  resultsOf,
  sumOf,
  type Plan,
  type PlanRow,
  type ReadFile,
  type SumKind,
  type Written,
} from '@shale/core';
import { sumOfFile } from './digests.ts';
import { holdFile } from './beneath.ts';
import type { Places } from './places.ts';
import type { WrittenSound } from './sound.ts';
import { filesOfRow, keyOf, type Placed, type Stamps } from './stamps.ts';

/** What an earlier job made of a source in the same way. */
export interface Earlier {
  plan: Plan;
  written: readonly Written[];
  /** The clips and the sound that all of it was made of. */
  media: readonly ReadFile[];
  /** What its files were when it began; undefined where that was not kept. */
  stamps?: Stamps;
  /** The sound that it wrote beside stills. */
  sound?: WrittenSound;
}

/** What of a plan is there already. */
export interface Standing {
  /** Results that came of these very bytes in this very way, by their place in the plan. */
  kept: Written[];
  /** Results whose file an earlier job wrote of something else: they are made in its place. */
  again: { index: number; name: string }[];
  /** What an earlier job wrote beside those that stay or are made again, where it is still that. */
  beside: string[];
  /** The sound beside stills that an earlier job wrote, where it is still that: it is made in its place. */
  sound?: WrittenSound;
}

/** Names that are no hindrance to a plan: those that stay, and those that are made again in place of what is there. */
export const namesStanding = (
  { kept, again, beside, sound }: Standing = { kept: [], again: [], beside: [] },
): Set<string> => new Set([...[...kept, ...again].map(({ name }) => name), ...beside, ...(sound ? [sound.name] : [])]);

const nameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);

/** All of a row that decides what its result is, but for the bytes of its files. */
const makingOf = ({ kind, shot, from, sourceFrame, mixed }: PlanRow): string =>
  JSON.stringify([kind, shot, from, sourceFrame, mixed]);

/** The rows that a result is made of: one, or of a video all. */
const rowsFor = (plan: Plan, index: number): PlanRow[] =>
  plan.into.kind === 'video' ? resultsOf(plan, 0, plan.frames) : resultsOf(plan, index, index + 1);

/**
 * Looks which results of a plan earlier jobs have made: of files that are the same (size and time; or size and checksum, where only
 * the time is another), in the same way, and still there as they were written.
 * @param earlier the newest first; of a name the newest says what it is
 */
export async function lookWhatStands(plan: Plan, places: Places, earlier: readonly Earlier[]): Promise<Standing> {
  const byName = new Map<string, { written: Written; job: Earlier }>();
  for (const job of earlier)
    for (const written of job.written) if (!byName.has(written.name)) byName.set(written.name, { written, job });
  const isSame = sameFiles(places.follows ?? false);
  const standing: Standing = { kept: [], again: [], beside: [] };
  for (let index = 0; index < plan.files; index += 1) {
    const rows = rowsFor(plan, index);
    const name = nameOf(rows[0]!.to);
    const before = byName.get(name);
    if (!before || !isThere(join(places.target, plan.into.folder, name), before.written)) continue;
    const { written, job } = before;
    const beside = written.video?.beside;
    const isWhole = !beside || (await isAsWritten(plan, places, beside));
    if (beside && isWhole) standing.beside.push(beside.name);
    const was = rowsFor(job.plan, written.index);
    const sameWay = was.length === rows.length && rows.every((row, at) => makingOf(row) === makingOf(was[at]!));
    const files = sameWay ? filesFor(plan, places, rows) : [];
    const read = new Map([...job.media, ...written.sources].map((one) => [one.file, one]));
    if (sameWay && isWhole && (await every(files, (file) => isSame(file, job.stamps, read.get(file.file)))))
      standing.kept.push({ ...written, index });
    else standing.again.push({ index, name });
  }
  const sound = await soundOfOurs(plan, places, earlier);
  return sound ? { ...standing, sound } : standing;
}

/** The sound that an earlier job wrote beside stills, where what has its name is that, byte for byte. */
async function soundOfOurs(plan: Plan, places: Places, earlier: readonly Earlier[]): Promise<WrittenSound | undefined> {
  const name = plan.into.kind === 'video' ? undefined : plan.sound?.as;
  const written = earlier.find(({ sound }) => sound !== undefined && sound.name === name)?.sound;
  return written && (await isAsWritten(plan, places, written)) ? written : undefined;
}

/** Whether what an earlier job wrote beside results is still that, byte for byte. */
async function isAsWritten(plan: Plan, places: Places, { name, bytes, sha256 }: WrittenSound): Promise<boolean> {
  const file = join(plan.into.folder, name);
  if (lstatSync(join(places.target, file), { throwIfNoEntry: false })?.size !== bytes) return false;
  return (await checksum({ root: places.target, file }, false, 'sha256')) === sumOf('sha256', sha256);
}

/** All files that a result is made of, the sound of a video among them. */
function filesFor(plan: Plan, places: Places, rows: readonly PlanRow[]): Placed[] {
  const { sound, into } = plan;
  const heard = into.kind === 'video' && sound && !sound.own ? [{ root: places.sound!, file: sound.file }] : [];
  return [...rows.flatMap((row) => filesOfRow(plan, places, row)), ...heard];
}

/** A checksum of a file's bytes, with its kind. */
async function checksum({ root, file }: Placed, follows: boolean, kind: SumKind): Promise<string> {
  const one = holdFile(root, file, follows);
  try {
    return await sumOfFile(one.fd, kind);
  } finally {
    one.close();
  }
}

/** Whether a result is still what was written. */
function isThere(path: string, { bytes, modified }: Written): boolean {
  const told = lstatSync(path, { throwIfNoEntry: false });
  return told?.isFile() === true && told.size === bytes && (modified === undefined || told.mtimeMs === modified);
}

async function every<T>(all: readonly T[], holds: (one: T) => Promise<boolean>): Promise<boolean> {
  for (const one of all) if (!(await holds(one))) return false;
  return true;
}

/** Whether files are what they were when a job read them; each is looked at once. */
function sameFiles(follows: boolean) {
  const places = new Map<Stamps, Map<string, number>>();
  const looked = new Map<string, boolean>();
  const stampOf = (stamps: Stamps, key: string) => {
    let at = places.get(stamps);
    if (!at) places.set(stamps, (at = new Map(stamps.keys.map((one, index) => [one, index]))));
    const index = at.get(key);
    return index === undefined ? undefined : { bytes: stamps.bytes[index], modified: stamps.modified[index] };
  };
  const look = async (placed: Placed, stamps: Stamps | undefined, read: ReadFile | undefined): Promise<boolean> => {
    const told = statSync(join(placed.root, placed.file), { throwIfNoEntry: false });
    if (!told) return false;
    const stamp = stamps && stampOf(stamps, keyOf(placed));
    const untouched = stamp !== undefined && stamp.bytes === told.size && stamp.modified === told.mtimeMs;
    if (untouched && read?.changed !== true) return true;
    // Copied anew, it has another time and may have the same bytes.
    return (
      read !== undefined &&
      read.bytes === told.size &&
      (await checksum(placed, follows, kindOfSum(read.sum))) === read.sum
    );
  };
  return async (placed: Placed, stamps: Stamps | undefined, read: ReadFile | undefined): Promise<boolean> => {
    const key = keyOf(placed);
    const known = looked.get(key);
    if (known !== undefined) return known;
    const same = await look(placed, stamps, read);
    looked.set(key, same);
    return same;
  };
}
