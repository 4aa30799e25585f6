import { stat } from 'node:fs/promises';
import { ClipReader, readStill } from '@shale/media';
import { ShaleError, type Weighed } from '@shale/core';

/** Points of a chart at the most. */
const points = 600;
/** Pictures in a row, and rows of them, whose decoding is timed in a clip. */
const together = 24;
const rows = 4;

/** Frames of a sequence, or a clip. */
export type ToWeigh = { clip: string } | { files: { frame: number; path: string }[] };

const evenly = (total: number, most: number): number[] =>
  Array.from({ length: Math.min(total, most) }, (_, at) => Math.floor((at * total) / Math.min(total, most)));

/** Measures what playing a source costs on this machine. @throws ShaleError where nothing of it can be read */
export const weigh = (what: ToWeigh): Promise<Weighed> =>
  'clip' in what ? weighClip(what.clip) : weighFiles(what.files);

async function weighClip(path: string): Promise<Weighed> {
  const reader = await ClipReader.open(path);
  const weighed: Weighed = { bytes: [], decode: [], frameMemory: 0, failed: 0 };
  try {
    const { bytes } = reader.index;
    for (const at of evenly(bytes.length, points)) weighed.bytes.push([at, bytes[at]!]);
    const starts = evenly(Math.max(1, bytes.length - together), rows);
    for (const start of starts) {
      // The first of a row costs the way from its key: it is not timed.
      let timed = false;
      for (let at = start; at < Math.min(bytes.length, start + together); at += 1) {
        const begin = performance.now();
        try {
          await reader.frameAt(at, async ({ width, height }) => {
            weighed.frameMemory ||= width * height * 4;
          });
          if (timed) weighed.decode.push([at, performance.now() - begin]);
          timed = true;
        } catch (error) {
          if (!(error instanceof ShaleError)) throw error;
          weighed.failed += 1;
          timed = false;
        }
      }
    }
    return weighed;
  } finally {
    await reader.close();
  }
}

async function weighFiles(files: { frame: number; path: string }[]): Promise<Weighed> {
  const weighed: Weighed = { bytes: [], decode: [], frameMemory: 0, failed: 0 };
  for (const at of evenly(files.length, points)) {
    const { frame, path } = files[at]!;
    const told = await stat(path).catch(() => undefined);
    if (told) weighed.bytes.push([frame, told.size]);
  }
  // The first read of a format prepares what the others use.
  for (const [turn, at] of [0, ...evenly(files.length, 12)].entries()) {
    const { frame, path } = files[at]!;
    const begin = performance.now();
    try {
      const { width, height } = await readStill(path);
      weighed.frameMemory ||= width * height * 4;
      if (turn > 0) weighed.decode.push([frame, performance.now() - begin]);
    } catch (error) {
      if (!(error instanceof ShaleError)) throw error;
      if (turn > 0) weighed.failed += 1;
    }
  }
  return weighed;
}
