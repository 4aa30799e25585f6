import { deserialize, serialize } from 'node:v8';
import { mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { Kinds, noReadings, type Alike, type FrameColumns, type FrameReadings, type Source } from '@shale/core';
import type { Probed } from './tasks.ts';

/** What was read of one source, and the listing that it belongs to. */
export interface KeptSource {
  columns: FrameColumns;
  /** Sequences and stills. */
  readings?: FrameReadings;
  alike?: Alike;
  /** Clips and sounds. */
  probed?: Probed;
  change?: Source['change'];
}

/** What was read of a folder's sources, by name: kept between scans, so that only what changed is read again. */
export type KeptFolder = Map<string, KeptSource>;

/** Grows when what a reading holds changes: older ones are read anew. */
const version = 1;

/** What was read at the last scan; nothing where there was none, or none that can be used. */
export async function loadReadings(path: string | undefined): Promise<KeptFolder> {
  if (path === undefined) return new Map();
  try {
    const value = deserialize(await readFile(path)) as { version: number; folder: KeptFolder };
    return value.version === version ? value.folder : new Map();
  } catch {
    return new Map();
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

/**
 * Readings for a listing, taken over from those kept where frame, size and time are the same; and the places to read.
 * A file with a problem is always read again, an empty one never.
 */
export function carryOver(
  columns: FrameColumns,
  kept: KeptSource | undefined,
): { readings: FrameReadings; toRead: number[] } {
  const readings = noReadings(columns.frames.length);
  const toRead: number[] = [];
  const kinds = new Kinds(readings.kinds);
  const mapped = new Map<number, number>();
  const before = kept?.readings && kept.columns;
  let old = 0;
  for (let at = 0; at < columns.frames.length; at += 1) {
    while (before && old < before.frames.length && before.frames[old]! < columns.frames[at]!) old += 1;
    const same =
      before !== undefined &&
      before.frames[old] === columns.frames[at] &&
      before.bytes[old] === columns.bytes[at] &&
      before.modified[old] === columns.modified[at] &&
      kept!.readings!.kind[old]! >= 0;
    if (same) {
      const { kind, kinds: known, picture, content } = kept!.readings!;
      if (!mapped.has(kind[old]!)) mapped.set(kind[old]!, kinds.indexOf(known[kind[old]!]!));
      readings.kind[at] = mapped.get(kind[old]!)!;
      readings.picture[at] = picture[old]!;
      readings.content[at] = content[old]!;
    } else if (columns.bytes[at] !== 0) toRead.push(at);
  }
  return { readings, toRead };
}
