import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { setImmediate as breathe } from 'node:timers/promises';
import {
  breachesOf,
  digestOf,
  digestOfBatch,
  heldPlan,
  mostSources,
  partsOf,
  planPart,
  problemOf,
  ShaleError,
  specFor,
  spokenOf,
  sumsOf,
  type Batch,
  type BatchPart,
  type Problem,
  type Receiver,
} from '@shale/core';
import type { BatchPlan, ListedSource, Makes, Many, PlannedPart } from '@shale/contract';
import { existingProblem, takenAmong } from '@shale/engine';
import { othersOf } from '../http/others.ts';
import type { Workshop } from '../workshop.ts';
import type { Keeps } from '../jobs/toRun.ts';
import { insideRoot } from '../roots/paths.ts';
import { roomOn } from '../roots/room.ts';
import { keptOf, noneKept, type Kept } from './kept.ts';

/** Parts that are worked out before others have a turn. */
const together = 20;

/** Sources that are read at once. */
const readTogether = 500;

/** A batch worked out, with what its run needs. */
export interface PlannedMany {
  sources: ListedSource[];
  parts: BatchPart[];
  keeps: Map<number, Keeps>;
  plan: BatchPlan;
}

/** @throws ShaleError `selection-not-found`, `nothing-selected` */
export async function idsOf(of: Many, { store }: Workshop): Promise<string[]> {
  const ids =
    'sources' in of
      ? of.sources
      : 'selection' in of
        ? await store.batches.selection(of.selection)
        : await store.sources.ids(of.filter);
  if (ids.length === 0)
    throw new ShaleError({
      code: 'nothing-selected',
      fact: 'No source fits.',
      wayOut: 'Select sources on Intake, or widen the filter.',
    });
  if (ids.length > mostSources)
    throw new ShaleError({
      code: 'too-many-sources',
      fact: `${ids.length.toLocaleString('en-GB')} sources are more than the limit of a batch, ${mostSources.toLocaleString('en-GB')}.`,
      wayOut: 'Use several batches: filter the list by folder.',
    });
  return [...new Set(ids)];
}

async function sourcesOf(ids: string[], { store }: Workshop): Promise<ListedSource[]> {
  const sources: ListedSource[] = [];
  for (let at = 0; at < ids.length; at += readTogether)
    sources.push(...(await store.sources.many(ids.slice(at, at + readTogether))));
  return sources;
}

/** The sources of a batch and its parts, worked out without a look at what is there of them. @throws ShaleError where no source is meant */
export async function workOut(of: Many, batch: Batch, house: Workshop, signal?: AbortSignal) {
  const ids = await idsOf(of, house);
  const sources = await sourcesOf(ids, house);
  const parts: BatchPart[] = [];
  for (const source of sources) {
    for (const output of batch.outputs.keys()) {
      // Whoever asked may be gone before ten thousand are worked out.
      signal?.throwIfAborted();
      if (parts.length % together === 0) await breathe();
      parts.push({ source: source.id, output, plan: await planOne(source, batch, output, house) });
    }
  }
  return { ids, sources, parts };
}

/**
 * Works a batch out: sources, what is wanted of them, what is there of it already, what a receiver would trip over. Nothing is written.
 * @throws ShaleError where no source is meant
 */
export async function planMany(
  of: Many,
  batch: Batch,
  makes: Makes,
  house: Workshop,
  { signal, receiver }: { signal?: AbortSignal; receiver?: Receiver } = {},
): Promise<PlannedMany> {
  const { ids, sources, parts } = await workOut(of, batch, house, signal);
  const known = new Set(sources.map(({ id }) => id));
  const folders = new Map<string, Promise<string[]>>();
  const problems = new Map<number, Problem[]>();
  const taken: number[] = [];
  const kept: Kept[] = [];
  for (const [at, { plan }] of parts.entries()) {
    signal?.throwIfAborted();
    try {
      const names = await namesAt(plan.into, house, folders);
      const there = takenAmong(plan, names);
      taken.push(there.names.length);
      kept.push(makes === 'new' && plan.problems.length === 0 ? await keptOf(plan, names, house) : noneKept);
      const { keeps } = kept[at]!;
      const inTheWay = keeps ? { ...there, names: there.names.filter((name) => !keeps.names.has(name)) } : there;
      const problem = existingProblem(plan, inTheWay);
      if (problem) problems.set(at, [problem]);
    } catch (error) {
      problems.set(at, [problemOf(error)]);
      taken[at] ??= 0;
      kept[at] ??= noneKept;
    }
  }
  const told = partsOf(parts, batch, problems);
  const rootOf = ({ plan: { into } }: BatchPart) => house.roots.find(into.root)?.path ?? '';
  const planned: PlannedPart[] = told.map((part, at) => ({
    ...part,
    taken: taken[at]!,
    kept: kept[at]!.keeps?.written.length ?? 0,
    leftOver: kept[at]!.leftOver,
    breaches: receiver ? breachesOf(heldPlan(parts[at]!.plan, rootOf(parts[at]!)), receiver) : [],
  }));
  return {
    sources,
    parts,
    keeps: new Map(kept.flatMap(({ keeps }, at) => (keeps ? [[at, keeps] as const] : []))),
    plan: {
      digest: digestOf([digestOfBatch(told), planned.map((part) => part.kept)]),
      spoken: spokenOf(sources),
      sums: sumsOf(told, (at) => planned[at]!.kept),
      parts: planned,
      gone: ids.filter((id) => !known.has(id)),
      rooms: await roomsOf(batch, house),
    },
  };
}

async function planOne(source: ListedSource, batch: Batch, output: number, house: Workshop) {
  const given = await givenOf(source, batch, output, house);
  return planPart({ id: source.id, root: source.root, source, declaration: source.declaration }, batch, output, given);
}

/** What a part's spec names beside its source; nothing where that spec cannot be one, which its plan tells. */
async function givenOf(source: ListedSource, batch: Batch, output: number, house: Workshop) {
  try {
    return await othersOf(source, specFor(batch, source.id, output), house);
  } catch (error) {
    if (error instanceof ShaleError && error.code === 'bad-spec') return {};
    throw error;
  }
}

/** All names that the folder of a plan's results holds; each folder is listed once. @throws ShaleError where it may not be written */
async function namesAt(
  { root, folder }: { root: string; folder: string },
  { roots }: Workshop,
  listed: Map<string, Promise<string[]>>,
): Promise<string[]> {
  const { path } = roots.writable(root);
  const key = `${root}\0${folder}`;
  let names = listed.get(key);
  if (!names) {
    names = insideRoot(path, folder).then(() => readdir(join(path, folder)).catch(() => []));
    listed.set(key, names);
  }
  return names;
}

/** Bytes free where the outputs go. */
async function roomsOf(batch: Batch, { roots }: Workshop): Promise<BatchPlan['rooms']> {
  const wanted = new Set(batch.outputs.map(({ into }) => into.root));
  return Promise.all([...wanted].map(async (root) => ({ root, free: await roomOn(roots.find(root)?.path ?? '') })));
}
