import {
  foldersRead,
  folderWritten,
  printSentence,
  readyIn,
  sentenceOfBatch,
  ShaleError,
  sourcesSaid,
  spokenOf,
  type Batch,
} from '@shale/core';
import type { Workshop } from '../workshop.ts';
import type { ToBegin } from './batches.ts';
import type { PlannedMany } from './planning.ts';

/** What of a planned batch is run: every part of the sources that may run, but for parts of which all is there already. */
export function toBegin(
  { sources, parts, keeps, plan }: PlannedMany,
  batch: Batch,
  { renames }: Pick<Workshop, 'renames'>,
): ToBegin {
  const ready = readyIn(plan.parts);
  const isWhole = (at: number) => plan.parts[at]!.kept === plan.parts[at]!.files && plan.parts[at]!.files > 0;
  const byId = new Map(sources.map((source) => [source.id, source]));
  const runs = parts.flatMap((part, at) => (ready.has(part.source) && !isWhole(at) ? [{ ...part, at }] : []));
  if (runs.length === 0) {
    const anyReady = ready.size > 0;
    throw new ShaleError({
      code: 'nothing-to-run',
      fact: anyReady ? 'Everything exists already: nothing is missing or changed.' : 'None of the sources can run.',
      wayOut: anyReady ? 'Make all of it again into another folder.' : 'Check what each of them needs.',
    });
  }
  for (const { plan: one } of runs)
    for (const { root, folder } of [...foldersRead(one), folderWritten(one)]) renames.refuseUse(`${root}/${folder}`);
  // Also those of which all is there already: who does it again means them as well.
  const taken = sources.filter(({ id }) => ready.has(id));
  const spoken = spokenOf(taken);
  return {
    batch,
    sentence: printSentence(
      sentenceOfBatch(batch, taken.length === 1 ? spoken.name : sourcesSaid(spoken), spoken.rates),
    ),
    sources: taken.map(({ id }) => id),
    parts: runs.map(({ source, output, plan: one, at }) => ({
      source,
      output,
      plan: one,
      name: byId.get(source)!.name,
      ...(keeps.has(at) ? { keeps: keeps.get(at)! } : {}),
    })),
  };
}
