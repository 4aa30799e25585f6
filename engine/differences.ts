import { join } from 'node:path';
import { doneWith, readStill, smallFrames, smallOf, type Small } from '@shale/media';
import { fileOfFrame, frameAt, isVideo, type Difference3, type PlannedSource } from '@shale/core';

/** Frames of a source from one place to another (not included), counted over those that are there. */
export interface Stretch {
  /** Absolute. */
  root: string;
  source: PlannedSource;
  start: number;
  end: number;
}

/** Columns of a small picture. */
export const smallColumns = 64;

/** How two small pictures differ; null where their heights do. */
function differenceOf(a: Small, b: Small): Difference3 | null {
  if (a.rows !== b.rows) return null;
  const sums = [0, 0];
  for (let y = 0; y < a.rows; y += 1) {
    let sum = 0;
    for (let at = y * smallColumns; at < (y + 1) * smallColumns; at += 1) sum += Math.abs(a.data[at]! - b.data[at]!);
    sums[y % 2]! += sum;
  }
  const evenRows = Math.ceil(a.rows / 2);
  const [even, odd] = [
    sums[0]! / (evenRows * smallColumns),
    sums[1]! / (Math.max(1, a.rows - evenRows) * smallColumns),
  ];
  return { whole: (even * evenRows + odd * (a.rows - evenRows)) / a.rows, even, odd };
}

/** A stretch's frames as small pictures, in order; null where one cannot be read. */
export async function* smalls({ root, source, start, end }: Stretch): AsyncGenerator<Small | null> {
  if (isVideo(source)) {
    yield* smallFrames(join(root, fileOfFrame(source, 0)!), start, end, smallColumns);
    return;
  }
  const read = (place: number): Promise<Small | null> => {
    const frame = frameAt(source.coverage, place)!;
    const picture = source.kind === 'clip' ? frame : 0;
    return readStill(join(root, fileOfFrame(source, frame)!), { picture }).then(
      (image) => {
        const small = smallOf(image, smallColumns);
        doneWith(image);
        return small;
      },
      () => null,
    );
  };
  // The next is decoded while one is compared.
  let next = start < end ? read(start) : undefined;
  for (let place = start; next; place += 1) {
    const small = await next;
    next = place + 1 < end ? read(place + 1) : undefined;
    yield small;
  }
}

/** How the frames of a stretch differ from those before them. */
export async function differencesOf(stretch: Stretch, signal?: AbortSignal): Promise<(Difference3 | null)[]> {
  const first = Math.max(0, stretch.start - 1);
  const differences: (Difference3 | null)[] = [];
  let before: Small | null = null;
  let place = first;
  for await (const small of smalls({ ...stretch, start: first })) {
    if (signal?.aborted) break;
    const follows =
      place > 0 && frameAt(stretch.source.coverage, place)! - frameAt(stretch.source.coverage, place - 1)! === 1;
    if (place >= stretch.start) differences.push(small && before && follows ? differenceOf(before, small) : null);
    before = small;
    place += 1;
  }
  return differences;
}
