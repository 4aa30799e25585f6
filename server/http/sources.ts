import type { Express } from 'express';
import { fileOfFrame, isVideo, sampleFrames, ShaleError } from '@shale/core';
import { routes, type ListedSource } from '@shale/contract';
import { insideRoot } from '../roots/paths.ts';
import { sourceId } from '../store/sources.ts';
import { handle } from './handle.ts';
import type { House } from './house.ts';

/** Frames whose pixels are looked at for evidence about alpha. */
const lookedAt = 3;

/** What the scans found, and what people say of it. */
export function sourceRoutes(
  app: Express,
  { store, roots, pools, events }: House,
  sourceOf: (id: string) => Promise<ListedSource>,
): void {
  const { sources } = store;
  const tell = (root: string) => events.send({ type: 'sources', root });

  handle(app, routes.listFolders, () => sources.folders());
  handle(app, routes.sourcesOverview, ({ query: { sort, ...filter } }) => sources.overview(filter, sort));
  handle(app, routes.sourceIds, ({ query }) => sources.ids(query));
  handle(app, routes.namedSources, async ({ body }) => {
    const ids = body.map(({ root, folder, name }) => sourceId(root, folder, name));
    const listed = new Map((await sources.many(ids)).map((one) => [one.id, one]));
    return ids.map((id) => listed.get(id) ?? null);
  });
  handle(app, routes.listSources, ({ query: { sort, descending, offset, limit, parts, ...filter } }) =>
    sources.list(filter, { sort, descending, offset, limit, parts }),
  );
  handle(app, routes.getSource, ({ params }) => sourceOf(params.source));
  handle(app, routes.declare, async ({ params, body }) => {
    const source = await sourceOf(params.source);
    await sources.putWord(source.id, body);
    tell(source.root);
    return sourceOf(source.id);
  });
  handle(app, routes.declareMany, async ({ body }) => {
    const changed = await sources.changeWords(body.sources, body.set, body.clear);
    for (const { id } of await roots.list()) tell(id);
    return { changed };
  });
  handle(app, routes.setAside, async ({ params, body }) => {
    const source = await sourceOf(params.source);
    const finding = source.findings.find(({ code }) => code === params.code);
    if (!finding) {
      throw new ShaleError({
        code: 'finding-not-found',
        fact: `${source.name} has no finding "${params.code}".`,
        wayOut: 'Look at its findings again; a scan may have changed them.',
        subject: params.code,
      });
    }
    await sources.putAside(source.id, finding, body.reason);
    tell(source.root);
    return sourceOf(source.id);
  });
  handle(app, routes.scenes, async ({ params, signal }) => {
    const source = await sourceOf(params.source);
    if (!isVideo(source)) {
      throw new ShaleError({
        code: 'not-a-clip',
        fact: `${source.name} is not a video clip.`,
        wayOut: 'Name its frames as ranges.',
        subject: source.id,
      });
    }
    const path = await insideRoot(roots.config(source.root).path, fileOfFrame(source, 0)!);
    return { frames: await pools.trying.run('scenes', { path }, { signal }) };
  });
  handle(app, routes.alphaEvidence, async ({ params, signal, asker }) => {
    const source = await sourceOf(params.source);
    const root = roots.config(source.root).path;
    const frames = source.kind === 'sequence' ? sampleFrames(source.coverage, lookedAt) : [0];
    const input = await Promise.all(
      frames.map(async (frame) => ({
        frame,
        path: await insideRoot(root, fileOfFrame(source, frame)!),
        clip: isVideo(source),
      })),
    );
    return pools.looking.run('alphaEvidence', input, { first: true, signal, asker });
  });
  handle(app, routes.listRules, async ({ params }) => sources.rules(roots.config(params.root).id));
  handle(app, routes.putRule, async ({ params, body }) => {
    const { id, path } = roots.config(params.root);
    await insideRoot(path, body.folder);
    const before = (await sources.rules(id)).find(({ folder }) => folder === body.folder)?.word.frameNumber;
    await sources.putRule(id, body);
    // Other numbers make other sources.
    if (before !== body.word.frameNumber) void roots.scan(id);
    tell(id);
    return sources.rules(id);
  });
}
