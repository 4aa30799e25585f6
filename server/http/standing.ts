import type { Express } from 'express';
import { routes } from '@shale/contract';
import { handle } from './handle.ts';
import type { House } from './house.ts';

/** Batches that begin by themselves. */
export function standingRoutes(app: Express, { standing }: House): void {
  handle(app, routes.listStanding, () => standing.list());
  handle(app, routes.tryStanding, ({ body, signal }) => standing.try(body.order, body.changes, signal));
  handle(app, routes.setStanding, ({ body }) => standing.set(body.order, body.earlier));
  handle(app, routes.changeStanding, ({ params, body }) => standing.change(params.standing, body.order, body.edition));
  handle(app, routes.pauseStanding, ({ params, body }) => standing.pause(params.standing, body.paused));
  handle(app, routes.removeStanding, async ({ params }) => {
    await standing.remove(params.standing);
    return { removed: true };
  });
  handle(app, routes.standingLog, ({ params, query }) => standing.log(params.standing, query.limit, query.before));
}
