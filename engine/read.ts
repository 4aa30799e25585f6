import { enterReadings, namesOf, type FrameColumns, type FrameReadings, type Source } from '@shale/core';
import type { WorkerPool } from './pool.ts';

/** Files that a process looks at before it is asked for something else. */
const chunk = 256;

/** Files of one folder that are to be looked at: names by place, and readings that are filled in. */
export interface ToRead {
  names: readonly string[];
  columns: FrameColumns;
  readings: FrameReadings;
  /** Places that are not known from before. */
  places: readonly number[];
}

/** Files of a sequence that are to be looked at. */
export const framesToRead = (
  source: Source,
  columns: FrameColumns,
  { readings, toRead }: { readings: FrameReadings; toRead: number[] },
): ToRead => ({ names: toRead.length > 0 ? namesOf(source, columns) : [], columns, readings, places: toRead });

/** One file of a chunk: of which list, and its place there. */
interface Asked {
  list: ToRead;
  at: number;
}

function* filesOf(lists: readonly ToRead[]): Generator<Asked> {
  for (const list of lists) for (const at of list.places) yield { list, at };
}

/**
 * Looks at files over all processes, a chunk each, chunks going over the lists' bounds; enters what is seen.
 * @param folder absolute
 * @returns whether any file was not what the listing had said
 * @throws ShaleError where the work was stopped
 */
export async function readFiles(
  folder: string,
  lists: readonly ToRead[],
  pool: WorkerPool,
  { signal, onDone }: { signal?: AbortSignal; onDone?: (files: number) => void } = {},
): Promise<boolean> {
  const files = filesOf(lists);
  let changed = false;
  const asker = async () => {
    for (;;) {
      const part: Asked[] = [];
      while (part.length < chunk) {
        const next = files.next();
        if (next.done) break;
        part.push(next.value);
      }
      if (part.length === 0 || signal?.aborted) return;
      const answer = await pool.run(
        'look',
        {
          folder,
          names: part.map(({ list, at }) => list.names[at]!),
          bytes: part.map(({ list, at }) => list.columns.bytes[at]!),
          modified: part.map(({ list, at }) => list.columns.modified[at]!),
        },
        { signal },
      );
      enter(part, answer.readings);
      changed ||= answer.changed.length > 0;
      onDone?.(part.length);
    }
  };
  // As many askers as processes, each with the next chunk: none waits for another.
  await Promise.all(Array.from({ length: pool.capacity }, asker));
  return changed;
}

/** Enters a chunk's readings into the lists that its files are of. */
function enter(part: readonly Asked[], { kind, kinds, picture, content, problems }: FrameReadings): void {
  for (let from = 0; from < part.length;) {
    const { list } = part[from]!;
    let to = from;
    while (to < part.length && part[to]!.list === list) to += 1;
    const mine = {
      kind: kind.subarray(from, to),
      kinds,
      picture: picture.subarray(from, to),
      content: content.subarray(from, to),
      problems: problems.filter(({ at }) => at >= from && at < to).map((one) => ({ ...one, at: one.at - from })),
    };
    const places = part.slice(from, to).map(({ at }) => at);
    enterReadings(list.readings, places, mine);
    from = to;
  }
}
