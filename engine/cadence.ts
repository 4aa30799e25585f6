import pLimit from 'p-limit';
import { CadenceFinder, coverageCount, frameAt, keptSource, type Cadence, type PlannedSource } from '@shale/core';
import type { WorkerPool } from './pool.ts';

/** Frames that a process compares before it is asked for something else. */
const together = 240;

/**
 * Looks through all frames of a source once, over all processes, and tells how they follow one another. A frame that cannot be read is
 * compared with none.
 */
export async function findCadence(
  root: string,
  source: PlannedSource,
  pool: WorkerPool,
  signal?: AbortSignal,
): Promise<Cadence> {
  const followed = keptSource(source);
  const { coverage } = followed;
  const total = coverageCount(coverage);
  const side = pLimit(pool.processes);
  const parts = Array.from({ length: Math.ceil(total / together) }, (_, part) =>
    side(() =>
      pool.run(
        'differences',
        {
          root,
          source: followed,
          start: part * together,
          end: Math.min(total, (part + 1) * together),
        },
        { signal },
      ),
    ),
  );
  const finder = new CadenceFinder();
  let place = 0;
  for (const part of parts)
    for (const difference of await part) {
      finder.add(frameAt(coverage, place)!, difference);
      place += 1;
    }
  return finder.result();
}
