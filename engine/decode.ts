import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { problemOf, type Problem } from '@shale/core';
import { ClipReader, readStill } from '@shale/media';

/** A file all of whose pictures were decoded, and what it was then. */
export interface DecodedFile {
  bytes: number;
  /** Last modification, milliseconds since 1970. */
  modified: number;
  /** Pictures that were decoded; a still has one. */
  pictures: number;
  /** Pictures that do not decode, by number from 0, and why. */
  faults: { picture: number; problem: Problem }[];
}

export interface ToDecode {
  /** Absolute. */
  folder: string;
  names: string[];
  /** Whether they are clips of video. */
  clip: boolean;
  /** How many pictures each holds. */
  pictures: number;
}

/** Pictures of one file after which it tells how far it is. */
const tellEvery = 25;

/**
 * Decodes every picture of some files, and keeps none.
 * @param onPictures told how many pictures were decoded since the last call
 * @returns a place for each name; null where the file is gone, or changed meanwhile
 * @throws where it was stopped
 */
export async function decodeFiles(
  { folder, names, clip, pictures }: ToDecode,
  onPictures: (pictures: number) => void,
  signal: AbortSignal,
): Promise<(DecodedFile | null)[]> {
  const done: (DecodedFile | null)[] = [];
  for (const name of names) {
    const path = join(folder, name);
    const before = await stat(path).catch(() => undefined);
    const faults = before && (await faultsOf(path, clip ? undefined : pictures, onPictures, signal));
    const after = await stat(path).catch(() => undefined);
    const same = before && after && before.size === after.size && before.mtimeMs === after.mtimeMs;
    done.push(same && faults ? { bytes: after.size, modified: after.mtimeMs, ...faults } : null);
  }
  return done;
}

/** @param pictures how many a still holds; undefined for a clip of video, which is counted by itself */
async function faultsOf(
  path: string,
  pictures: number | undefined,
  onPictures: (pictures: number) => void,
  signal: AbortSignal,
): Promise<Pick<DecodedFile, 'pictures' | 'faults'>> {
  const faults: DecodedFile['faults'] = [];
  let reader: ClipReader | undefined;
  let at = 0;
  let told = 0;
  try {
    reader = pictures === undefined ? await ClipReader.open(path, { threads: 2 }) : undefined;
    const count = reader?.count ?? pictures!;
    for (; at < count; at += 1) {
      signal.throwIfAborted();
      try {
        if (reader) await reader.frameAt(at, () => Promise.resolve());
        else await readStill(path, { picture: at });
      } catch (error) {
        faults.push({ picture: at, problem: problemOf(error) });
      }
      if (at + 1 - told < tellEvery) continue;
      onPictures(at + 1 - told);
      told = at + 1;
    }
  } catch (error) {
    if (signal.aborted) throw error;
    // A file that does not open has one fault, whatever it holds.
    faults.push({ picture: 0, problem: problemOf(error) });
    at = Math.max(1, pictures ?? 1);
  } finally {
    await reader?.close();
  }
  onPictures(at - told);
  return { pictures: at, faults };
}
