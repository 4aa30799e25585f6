import { createServer } from 'node:http';
import { mkdir, writeFile } from 'node:fs/promises';
import type { AddressInfo } from 'node:net';
import { parameterNames, type AnswerOf, type Route, type Sent } from '@shale/contract';
import { Batches } from '../batches/batches.ts';
import { Condition } from '../condition.ts';
import { makeApp } from '../http/app.ts';
import { Intake } from '../intake/intake.ts';
import { MadeSources } from '../made.ts';
import { Checks } from '../roots/checks.ts';
import { Previews } from '../previews.ts';
import { UploadDesk } from '../desk.ts';
import { Searches } from '../searches.ts';
import { Renames } from '../renames/renames.ts';
import { StandingOrders } from '../standing/standing.ts';
import type { Ground } from './ground.ts';

/** The whole HTTP application on a port of its own, and a client that speaks by the contract. For tests. */
export class Served {
  private constructor(
    /** Its address, without a slash at the end. */
    readonly url: string,
    readonly close: () => Promise<void>,
  ) {}

  static async on(ground: Ground): Promise<Served> {
    const { store, roots, pool, events } = ground;
    const jobs = ground.jobs();
    const batches = new Batches(store, jobs, events);
    const renames = new Renames(store, roots, jobs, events, ground.in('renames'), ground.pool);
    const intake = new Intake(ground.in('more'), ground.in('uploads'), store, (folder) => roots.rescan('more', folder));
    const made = new MadeSources(ground.in('proofs'), pool, store, roots, jobs);
    const searches = new Searches(ground.in('searches'), pool, roots);
    const desk = new UploadDesk();
    const previews = new Previews(ground.in('previews'), pool);
    const page = ground.in('page');
    for (const folder of ['renames', 'page']) await mkdir(ground.in(folder), { recursive: true });
    await writeFile(ground.in('page', 'index.html'), '<script nonce="__NONCE__"></script>');
    await Promise.all([intake.begin(), made.begin(), searches.begin(), previews.begin(), renames.begin()]);
    const pools = { looking: pool, scanning: pool, trying: pool, working: pool };
    const condition = new Condition(store, [ground.folder], pools, events, () => undefined);
    const checks = new Checks(roots, pool, (event) => events.send(event));
    const shared = {
      store,
      roots,
      checks,
      jobs,
      batches,
      renames,
      intake,
      made,
      searches,
      desk,
      previews,
      pools,
      events,
    };
    const workshop = { ...shared, workers: 2 };
    const standing = new StandingOrders(workshop);
    await standing.begin();
    const server = createServer(makeApp({ ...workshop, standing, condition, page, version: '0.0.1' }));
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    const close = async () => {
      condition.close();
      searches.close();
      await desk.close();
      await standing.close();
      batches.close();
      events.close();
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
      await renames.close();
      await jobs.close();
    };
    return new Served(`http://127.0.0.1:${(server.address() as AddressInfo).port}`, close);
  }

  /** What an operation answers, whatever it is. */
  async fetch<R extends Route>(route: R, sent: Sent<R>): Promise<Response> {
    const { params, query, body } = sent as { params?: Record<string, unknown>; query?: object; body?: unknown };
    let path = route.path;
    for (const name of parameterNames(path))
      path = path.replace(`:${name}`, encodeURIComponent(String(params?.[name])));
    const search = new URLSearchParams();
    for (const [name, value] of Object.entries(query ?? {})) search.set(name, String(value));
    return fetch(`${this.url}/api${path}?${search}`, {
      method: route.method.toUpperCase(),
      ...(body === undefined ? {} : { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
    });
  }

  /** The answer of an operation. @throws Error with what it was refused for */
  async ask<R extends Route>(route: R, sent: Sent<R>): Promise<AnswerOf<R>> {
    const answer = await this.fetch(route, sent);
    const text = await answer.text();
    if (answer.status !== (route.status ?? 200)) throw new Error(`${route.path}: ${answer.status} ${text}`);
    return route.response?.parse(JSON.parse(text)) as AnswerOf<R>;
  }
}
