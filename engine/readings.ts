import { deserialize, serialize } from 'node:v8';
import { mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { Kinds, noReadings, type Alike, type FrameColumns, type FrameReadings, type Source } from '@shale/core';
import type { DecodedFile } from './decode.ts';
import type { Probed } from './probed.ts';

/** Readings, and the listing that they belong to. */
export interface Read {
  columns: FrameColumns;
  readings: FrameReadings;
}

/** What was read of a sequence. */
export interface KeptSequence extends Read {
  alike?: Alike;
  change?: Source['change'];
}

/** What was read of a clip or a sound. */
export interface KeptMedium {
  bytes: number;
  modified: number;
  probed: Probed;
  /** What decoding all its pictures gave, where that was done since it last changed. */
  decoded?: DecodedFile;
}

/** What was read of a folder's sources, by name: kept between scans, so that only what changed is read again. */
export interface KeptFolder {
  sequences: Map<string, KeptSequence>;
  media: Map<string, KeptMedium>;
  /** All stills together, a place in the columns for each name. */
  stills: Read & { names: string[] };
}

export const nothingKept = (): KeptFolder => ({
  sequences: new Map(),
  media: new Map(),
  stills: {
    names: [],
    columns: { frames: new Float64Array(0), bytes: new Float64Array(0), modified: new Float64Array(0) },
    readings: noReadings(0),
  },
});

/** Grows when what a reading holds changes: older ones are read anew. */
const version = 7;

/** What was read at the last scan; nothing where there was none, or none that can be used. */
export async function loadReadings(path: string | undefined): Promise<KeptFolder> {
  if (path === undefined) return nothingKept();
  try {
    const value = deserialize(await readFile(path)) as { version: number; folder: KeptFolder };
    return value.version === version ? value.folder : nothingKept();
  } catch {
    return nothingKept();
  }
}

export async function saveReadings(path: string, folder: KeptFolder): Promise<void> {
  const temporary = `${path}.${process.pid}.part`;
  try {
    await mkdir(dirname(path), { recursive: true });
    await writeFile(temporary, serialize({ version, folder }));
    await rename(temporary, path);
  } catch {
    // A memory that cannot be kept, as on a full disk, costs a second reading and nothing else.
    await rm(temporary, { force: true }).catch(() => undefined);
  }
}

/** For each place of a listing, where the same frame stood in an earlier one; both ascending. -1 where it did not. */
export function placesBefore(after: FrameColumns, before: FrameColumns): Int32Array {
  let old = 0;
  return Int32Array.from(after.frames, (frame) => {
    while (old < before.frames.length && before.frames[old]! < frame) old += 1;
    return before.frames[old] === frame ? old : -1;
  });
}

/**
 * Readings for a listing, taken over where size and time are what they were; and the places to read. A file with a problem
 * is always read again, an empty one never.
 * @param places where each stood in what was kept, -1 where it is new
 */
export function carryOver(
  columns: FrameColumns,
  kept: Read | undefined,
  places: ArrayLike<number>,
): { readings: FrameReadings; toRead: number[] } {
  const readings = noReadings(columns.frames.length);
  const toRead: number[] = [];
  const kinds = new Kinds(readings.kinds);
  const mapped = new Map<number, number>();
  const newPlace = new Map<number, number>();
  for (let at = 0; at < columns.frames.length; at += 1) {
    const old = places[at]!;
    const same =
      kept !== undefined &&
      old >= 0 &&
      kept.columns.bytes[old] === columns.bytes[at] &&
      kept.columns.modified[old] === columns.modified[at];
    if (same) {
      readings.decoded[at] = kept.readings.decoded[old]!;
      newPlace.set(old, at);
    }
    if (same && kept.readings.kind[old]! >= 0) {
      const kind = kept.readings.kind[old]!;
      if (!mapped.has(kind)) mapped.set(kind, kinds.indexOf(kept.readings.kinds[kind]!));
      readings.kind[at] = mapped.get(kind)!;
      readings.picture[at] = kept.readings.picture[old]!;
      readings.content[at] = kept.readings.content[old]!;
    } else if (columns.bytes[at] !== 0) toRead.push(at);
  }
  for (const fault of kept?.readings.faults ?? []) {
    const at = newPlace.get(fault.at);
    if (at !== undefined) readings.faults.push({ ...fault, at });
  }
  return { readings, toRead };
}
