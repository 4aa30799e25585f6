import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import express, { type Express } from 'express';
import {
  digestOfPlan,
  foldersRead,
  folderWritten,
  makePlan,
  measuredLosses,
  parseSpec,
  readWith,
  sampleFrames,
  ShaleError,
  specFileSchema,
  startingSpec,
  type Plan,
  previewType,
} from '@shale/core';
import { openApi, routes, type ListedSource, type SavedSpec } from '@shale/contract';
import { existingProblem, takenNames } from '@shale/engine';
import { lateLines } from '../log.ts';
import { insideRoot } from '../roots/paths.ts';
import { roomOn } from '../roots/room.ts';
import { apiPage } from './apiPage.ts';
import { handed } from './handed.ts';
import { handle } from './handle.ts';
import type { House } from './house.ts';
import { secure, servePage } from './page.ts';
import { answerProblem } from './problems.ts';
import { hearingRoutes } from './hearing.ts';
import { lookingRoutes } from './looking.ts';
import { nameRoutes } from './names.ts';
import { receiptRoutes } from './receipts.ts';
import { sourcePlaces } from '../jobs/places.ts';
import { batchRoutes } from './batches.ts';
import { contentBoxOf } from './content.ts';
import { othersOf } from './others.ts';
import { searchRoutes } from './searches.ts';
import { sourceRoutes } from './sources.ts';
import { standingRoutes } from './standing.ts';
import { timeRoutes } from './time.ts';
import { uploadRoutes } from './uploads.ts';

/** Problems of a plan for which not even one frame of it can be shown. */
const stopsLooking = new Set([
  'not-frames',
  'unreadable-source',
  'format-not-read',
  'alpha-not-declared',
  'transfer-not-declared',
  'crop-outside',
  'size-too-large',
  'no-such-layer',
  'other-not-found',
  'other-not-frames',
  'other-not-declared',
  'key-needs-colour',
]);

/** Frames that a measurement looks at unless it is asked for all. */
const sampleSize = 4;

/** `bell_2`, or the next number of which there is no folder yet; null where many are taken. @param root absolute */
async function freeFolder(root: string, folder: string): Promise<string | null> {
  for (let number = 2; number < 1000; number += 1) {
    const free = `${folder}_${number}`;
    const isThere = await stat(join(root, free)).then(
      () => true,
      () => false,
    );
    if (!isThere) return free;
  }
  return null;
}

/** Refuses pages of other origins and host names that lead here by a trick of DNS. */
function sameOriginOnly(app: Express): void {
  app.use((request, _response, next) => {
    const { origin, host = '' } = request.headers;
    const foreign = origin !== undefined && origin !== `http://${host}`;
    const renamed = !/^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/.test(host);
    if (!foreign && !renamed) return next();
    throw new ShaleError({
      code: 'foreign-origin',
      fact: 'The request comes from another site.',
      wayOut: 'Open Shale at the address printed when it started.',
    });
  });
}

/** The HTTP application: thin routes over the house. */
export function makeApp(house: House): Express {
  const { store, roots, jobs, made, events } = house;
  const app = express();
  app.disable('x-powered-by');
  secure(app);
  sameOriginOnly(app);
  // Long lists of files and of sources come in whole; all else is small.
  app.use(
    [
      '/api/intake',
      '/api/words',
      '/api/renames',
      '/api/edits',
      '/api/sources',
      '/api/batches',
      '/api/selections',
      '/api/standing-orders',
    ],
    express.json({ limit: '32mb', strict: false }),
  );
  app.use('/api', express.json({ limit: '4mb', strict: false }));

  const sourceOf = async (id: string): Promise<ListedSource> => {
    const source = (await made.find(id)) ?? (await store.sources.get(id));
    if (source) return source;
    throw new ShaleError({
      code: 'source-not-found',
      fact: 'This source no longer exists.',
      wayOut: 'Choose one on Intake; scan again if files were added or removed.',
      subject: id,
    });
  };
  const planOf = async (wanted: { source: string; spec: unknown }): Promise<Plan> => {
    const source = await sourceOf(wanted.source);
    const spec = parseSpec(wanted.spec);
    const given = await othersOf(source, spec, house);
    const plan = makePlan(source.root, source, source.declaration, spec, given);
    // A plan for a root that is not there or may only be read is refused before anything else is looked at.
    roots.writable(plan.into.root);
    return plan;
  };

  handle(app, routes.health, async ({ response }) => {
    const { parts, problems } = await house.condition.look();
    if (problems.length > 0) response.status(503);
    return { version: house.version, ready: problems.length === 0, parts, problems };
  });
  const since = new Date().toISOString();
  handle(app, routes.serverState, async () => ({
    version: house.version,
    since,
    parts: (await house.condition.look()).parts,
    pools: Object.entries(house.pools).map(([name, { condition }]) => ({ name, ...condition })),
    jobs: jobs.counts,
    samples: house.condition.samples,
    log: [...lateLines()],
  }));
  handle(app, routes.listRoots, () => roots.list());
  handle(app, routes.browse, ({ query }) => roots.added.browse(query.path));
  handle(app, routes.addRoot, ({ body }) => roots.add(body));
  handle(app, routes.removeRoot, async ({ params }) => {
    roots.config(params.root);
    const user = jobs.usingFolder(params.root);
    if (user)
      throw new ShaleError({
        code: 'folder-in-use',
        fact: `A job of ${user.plan.source.name} reads or writes in this folder.`,
        wayOut: 'Wait for it, or stop it.',
        subject: params.root,
      });
    await roots.remove(params.root);
    return { removed: true };
  });
  handle(app, routes.scanRoot, async ({ params }) => {
    void roots.scan(params.root);
    return roots.get(params.root);
  });
  handle(app, routes.stopScan, async ({ params }) => {
    await roots.stopScan(params.root);
    return roots.get(params.root);
  });
  sourceRoutes(app, house, sourceOf);
  lookingRoutes(app, house, sourceOf);
  hearingRoutes(app, house, sourceOf);
  timeRoutes(app, house, sourceOf, planOf);
  handle(app, routes.startingSpec, async ({ params }) => {
    const source = await sourceOf(params.source);
    return startingSpec(source, source.declaration);
  });
  handle(app, routes.makePlan, ({ body }) => planOf(body));
  handle(app, routes.lookAtTarget, async ({ body }) => {
    const plan = await planOf(body);
    const target = roots.writable(plan.into.root).path;
    await insideRoot(target, plan.into.folder);
    const taken = await takenNames(plan, target);
    const problem = existingProblem(plan, taken) ?? null;
    const free = problem && plan.into.folder !== '' ? await freeFolder(target, plan.into.folder) : null;
    return { taken: taken.names.length, of: taken.of, problem, free, room: await roomOn(target) };
  });
  handle(app, routes.measure, async ({ body, signal, asker }) => {
    const plan = await planOf(body);
    if (plan.problems.length > 0) throw new ShaleError(plan.problems[0]!);
    const results = sampleFrames(
      [{ first: 0, last: plan.frames - 1, step: 1 }],
      body.frames === 'all' ? plan.frames : sampleSize,
    );
    const places = await sourcePlaces(plan, roots);
    const measured = await house.pools.trying.run('measure', { plan, places, results }, { signal, asker });
    return {
      frames: measured.frames,
      counts: measured.counts,
      losses: measuredLosses(measured.counts, plan.source.facts, plan.recipe),
      bytes: measured.bytes * plan.frames,
      // A video is one work of one process, whose codec uses all cores.
      seconds: (measured.seconds * plan.frames) / (plan.into.kind === 'video' ? 1 : house.workers),
      problems: measured.problems,
    };
  });
  handle(app, routes.lookAtPlan, async ({ body, signal, asker, response }) => {
    const plan = await planOf(body);
    const problem = plan.problems.find(({ code }) => stopsLooking.has(code));
    if (problem) throw new ShaleError(problem);
    const places = await sourcePlaces(plan, roots);
    const { frame: sourceFrame, view, width } = body;
    const bytes = await house.pools.looking.run(
      'picture',
      { plan, places, sourceFrame, view, width },
      { first: true, signal, asker },
    );
    response.set('cache-control', 'no-store').type(previewType(bytes)).send(Buffer.from(bytes));
  });
  handle(app, routes.prove, async ({ body, signal }) => {
    const plan = await planOf(body);
    const problem = plan.problems.find(({ code }) => stopsLooking.has(code));
    if (problem) throw new ShaleError(problem);
    return made.prove(await sourceOf(body.source), plan, body.frames, signal);
  });
  handle(app, routes.contentBox, async ({ body, signal }) => contentBoxOf(await planOf(body), house, signal));
  handle(app, routes.startJob, async ({ body }) => {
    const plan = await planOf(body);
    if (body.digest !== undefined && body.digest !== digestOfPlan(plan)) {
      throw new ShaleError({
        code: 'plan-changed',
        fact: 'The plan has changed since it was shown: the source, its declaration or its files changed.',
        wayOut: 'Check the new plan, and press Run again.',
        subject: body.source,
      });
    }
    for (const { root, folder } of [...foldersRead(plan), folderWritten(plan)])
      house.renames.refuseUse(`${root}/${folder}`);
    return jobs.start(body.source, plan, body.estimate);
  });
  handle(app, routes.listJobs, ({ query }) => jobs.list(query));
  handle(app, routes.getJob, async ({ params }) => (await jobs.get(params.job)).view());
  handle(app, routes.jobLog, ({ params }) => jobs.logOf(params.job));
  handle(app, routes.stopJob, ({ params }) => jobs.stop(params.job));
  handle(app, routes.cancelJob, ({ params }) => jobs.cancel(params.job));
  handle(app, routes.continueJob, ({ params, body }) => jobs.continue(params.job, body));
  handle(app, routes.orderJob, ({ params, body }) => jobs.order(params.job, body));
  nameRoutes(app, house, sourceOf);
  batchRoutes(app, house);
  standingRoutes(app, house);
  searchRoutes(app, house, sourceOf, planOf);
  receiptRoutes(app, house, sourceOf);
  handle(app, routes.bringIn, ({ body }) => house.intake.announce(body.name, body.files));
  uploadRoutes(app, house.intake);
  handle(app, routes.listSpecs, () => store.specs.list());
  handle(app, routes.saveSpec, ({ body }) => store.specs.save(body.name, parseSpec(body.spec)));
  handle(app, routes.addSpecs, async ({ body }) => {
    const added: SavedSpec[] = [];
    for (const { name, spec } of readWith(specFileSchema, body, handed('The file of specs')).specs)
      added.push(await store.specs.add(name, spec));
    return added;
  });
  handle(app, routes.deleteSpec, async ({ params }) => ({ removed: await store.specs.remove(params.spec) }));
  handle(app, routes.events, ({ response }) => events.attach(response));
  handle(app, routes.openapi, ({ response }) => void response.json(openApi(house.version)));
  app.get('/api', (_request, response) => void response.type('html').send(apiPage(response.locals.nonce as string)));
  app.use('/api', (request) => {
    throw new ShaleError({
      code: 'no-such-route',
      fact: `There is no ${request.method} ${request.originalUrl.split('?')[0]}.`,
      wayOut: '/api lists every operation.',
    });
  });
  servePage(app, house.page);
  app.use(answerProblem);
  return app;
}
