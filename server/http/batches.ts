import type { Express } from 'express';
import {
  foldersRead,
  folderWritten,
  printSentence,
  readyIn,
  sentenceOfBatch,
  ShaleError,
  sourcesSaid,
  type Batch,
} from '@shale/core';
import { routes, type ListedSource } from '@shale/contract';
import { measureMany } from '../batches/measuring.ts';
import { idsOf, planMany, workOut, type PlannedMany } from '../batches/planning.ts';
import { handle } from './handle.ts';
import type { House } from './house.ts';

/** Many sources at once: lists of them, their plan, their run, what came of it. */
export function batchRoutes(app: Express, house: House): void {
  const { store, batches } = house;

  handle(app, routes.keepSelection, async ({ body }) => {
    const ids = await idsOf(body, house);
    return { id: await store.batches.keepSelection(ids), sources: ids.length };
  });
  handle(app, routes.getSelection, async ({ params }) => ({
    sources: await store.batches.selection(params.selection),
  }));
  handle(app, routes.sourcesOf, ({ body }) => store.sources.many(body.sources));
  handle(
    app,
    routes.planBatch,
    async ({ body, signal }) => (await planMany(body.of, body.batch, body.makes, house, signal)).plan,
  );
  handle(app, routes.measureBatch, async ({ body, signal, asker }) => {
    const { parts } = await workOut(body.of, body.batch, house, signal);
    const measured = await measureMany(parts, house, signal, asker);
    const sum = (field: 'bytes' | 'seconds') => measured.reduce((all, one) => all + one[field], 0);
    return { bytes: Math.round(sum('bytes')), seconds: sum('seconds'), parts: measured };
  });
  handle(app, routes.startBatch, async ({ body }) => {
    const planned = await planMany(body.of, body.batch, body.makes, house);
    if (body.digest !== undefined && body.digest !== planned.plan.digest)
      throw new ShaleError({
        code: 'plan-changed',
        fact: 'What would be done is not what was shown: sources, what they are taken to be, their files or what is there already changed meanwhile.',
        wayOut: 'Look at the plan as it is now, and press Run again.',
      });
    return batches.start(toBegin(planned, body.batch, house));
  });
  handle(app, routes.listBatches, ({ query }) => batches.list(query));
  handle(app, routes.getBatch, ({ params }) => batches.view(params.batch));
  handle(app, routes.batchWanted, async ({ params }) => {
    const { batch, sources } = await batches.wanted(params.batch);
    return { batch, sources };
  });
  handle(app, routes.batchJobs, ({ params, query }) => batches.jobsOf(params.batch, query));
  handle(app, routes.stopBatch, ({ params }) => batches.stop(params.batch));
  handle(app, routes.continueBatch, ({ params, body }) => batches.continue(params.batch, body));
  handle(app, routes.cancelBatch, ({ params }) => batches.cancel(params.batch));
  handle(app, routes.orderBatch, ({ params, body }) => batches.order(params.batch, body.priority));
  handle(app, routes.batchReceipt, ({ params }) => batches.receipt(params.batch));
}

/** What of a planned batch is run: every part of the sources that may run, but for parts of which all is there already. */
function toBegin({ sources, parts, keeps, plan }: PlannedMany, batch: Batch, { renames }: House) {
  const ready = readyIn(plan.parts);
  const isWhole = (at: number) => plan.parts[at]!.kept === plan.parts[at]!.files && plan.parts[at]!.files > 0;
  const byId = new Map(sources.map((source) => [source.id, source]));
  const runs = parts.flatMap((part, at) => (ready.has(part.source) && !isWhole(at) ? [{ ...part, at }] : []));
  if (runs.length === 0) {
    const anyReady = ready.size > 0;
    throw new ShaleError({
      code: 'nothing-to-run',
      fact: anyReady ? 'Everything is there already: nothing is missing or changed.' : 'None of the sources can run.',
      wayOut: anyReady ? 'Make all of it again into another folder.' : 'See what each of them needs.',
    });
  }
  for (const { plan: one } of runs)
    for (const { root, folder } of [...foldersRead(one), folderWritten(one)]) renames.refuseUse(`${root}/${folder}`);
  // Also those of which all is there already: who does it again means them as well.
  const taken = sources.filter(({ id }) => ready.has(id));
  return {
    batch,
    sentence: printSentence(sentenceOfBatch(batch, spokenOf(taken))),
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

const spokenOf = (sources: readonly ListedSource[]) => ({
  words: sources.length === 1 ? sources[0]!.name : sourcesSaid(sources.map(({ kind }) => kind)),
  declarations: sources.map(({ declaration }) => declaration),
});
