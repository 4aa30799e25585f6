import type { Express } from 'express';
import type { Plan } from '@shale/core';
import { routes, type ListedSource } from '@shale/contract';
import { handle } from './handle.ts';
import type { House } from './house.ts';

/** Searches within a limit of bytes, and the files of their tries. */
export function searchRoutes(
  app: Express,
  { searches, desk }: House,
  sourceOf: (id: string) => Promise<ListedSource>,
  planOf: (wanted: { source: string; spec: unknown }) => Promise<Plan>,
): void {
  handle(app, routes.startSearch, async ({ body }) => searches.start(await sourceOf(body.source), await planOf(body)));
  handle(app, routes.getSearch, ({ params }) => searches.get(params.search));
  handle(app, routes.stopSearch, ({ params }) => searches.stop(params.search));
  handle(app, routes.continueSearch, ({ params }) => searches.continue(params.search));
  handle(app, routes.tryOne, ({ params, body }) => searches.tryOne(params.search, body.given));
  handle(app, routes.handTry, ({ params, body }) => desk.hand(searches.file(params.search, params.try), body.counter));
  handle(app, routes.tryFile, ({ params, query, response }) => {
    const path = searches.file(params.search, params.try, query.shown !== undefined);
    // A try stays what it is as long as its search is kept.
    response.set('cache-control', 'private, max-age=86400, immutable').sendFile(path, { dotfiles: 'allow' });
  });
}
