import type { Express } from 'express';
import { ShaleError } from '@shale/core';
import { routes } from '@shale/contract';
import { toBegin } from '../batches/begin.ts';
import { measureMany } from '../batches/measuring.ts';
import { idsOf, planMany, workOut } from '../batches/planning.ts';
import { tryMany } from '../batches/trying.ts';
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
  handle(app, routes.planBatch, async ({ body, signal }) => {
    const receiver = body.receiver === undefined ? undefined : (await store.names.getReceiver(body.receiver)).receiver;
    return (await planMany(body.of, body.batch, body.makes, house, { signal, receiver })).plan;
  });
  handle(app, routes.measureBatch, async ({ body, signal, asker }) => {
    const { parts } = await workOut(body.of, body.batch, house, signal);
    const measured = await measureMany(parts, house, signal, asker);
    const sum = (field: 'bytes' | 'seconds') => measured.reduce((all, one) => all + one[field], 0);
    return { bytes: Math.round(sum('bytes')), seconds: sum('seconds'), parts: measured };
  });
  handle(app, routes.tryBatch, async ({ body, signal }) => {
    const { parts } = await workOut({ sources: body.sources }, body.batch, house, signal);
    return tryMany(parts, house, signal);
  });
  handle(app, routes.startBatch, async ({ body }) => {
    const planned = await planMany(body.of, body.batch, body.makes, house);
    if (body.digest !== undefined && body.digest !== planned.plan.digest)
      throw new ShaleError({
        code: 'plan-changed',
        fact: 'The plan has changed since it was shown: sources, declarations, files or existing results changed.',
        wayOut: 'Check the new plan, and press Run again.',
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
