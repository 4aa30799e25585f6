import { createServer, get, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { setTimeout as wait } from 'node:timers/promises';
import express from 'express';
import { ShaleError } from '@shale/core';
import { routes } from '@shale/contract';
import { handle } from './handle.ts';
import { answerProblem } from './problems.ts';

const app = express();
app.use(express.json());
const seen: unknown[] = [];
let working: AbortSignal | undefined;
handle(app, routes.frameFacts, ({ params }) => {
  seen.push(params);
  return { name: 'a.png', bytes: 1, modified: 0, facts: null, problem: null };
});
handle(app, routes.deleteSpec, ({ params }) => {
  seen.push(params);
  return { removed: true };
});
handle(app, routes.weight, async ({ signal }) => {
  working = signal;
  await new Promise<void>((done) => signal.addEventListener('abort', () => done()));
  throw new ShaleError({ code: 'worker-crashed', fact: 'Given up.', wayOut: 'Ask again.' });
});
handle(app, routes.scenes, () => {
  throw new Error('SELECT secret FROM specs');
});
app.use(answerProblem);

let server: Server;
let url: string;
beforeAll(async () => {
  server = createServer(app);
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/api`;
});
afterAll(() => new Promise<void>((done) => server.close(() => done())));
beforeEach(() => seen.splice(0));

test('parameters of a path come as their schemas read them', async () => {
  expect((await fetch(`${url}/sources/a-1/frames/-12/facts`)).status).toBe(200);
  expect((await fetch(`${url}/specs/7`, { method: 'DELETE' })).status).toBe(200);
  expect(seen).toEqual([{ source: 'a-1', frame: -12 }, { spec: 7 }]);
});

test.each([
  ['GET', '/sources/a/frames/abc/facts', 'frame'],
  ['GET', '/sources/a/frames/1e3/facts', 'frame'],
  ['GET', `/sources/${'a'.repeat(61)}/frames/1/facts`, 'source'],
  ['GET', '/sources/a%2F..%2Fb/frames/1/facts', 'source'],
  ['DELETE', '/specs/abc', 'spec'],
  ['DELETE', '/specs/9999999999', 'spec'],
])('%s %s is refused, and no handler is asked', async (method, path, field) => {
  const answer = await fetch(url + path, { method });
  expect(answer.status).toBe(400);
  expect(await answer.json()).toMatchObject({ code: 'bad-request', subject: field });
  expect(seen).toEqual([]);
});

test('broken percent-encoding is the asker’s mistake', async () => {
  const answer = await new Promise<number>((done) => {
    get(`${url}/sources/%E0%A4%A/weight`, ({ statusCode }) => done(statusCode!));
  });
  expect(answer).toBe(400);
});

test('a handler is told when its asker has gone, and not before', async () => {
  const stop = new AbortController();
  const asked = fetch(`${url}/sources/a/weight`, { signal: stop.signal }).catch(() => undefined);
  for (let tries = 0; !working && tries < 200; tries += 1) await wait(10);
  expect(working!.aborted).toBe(false);
  stop.abort();
  await asked;
  for (let tries = 0; !working!.aborted && tries < 200; tries += 1) await wait(10);
  expect(working!.aborted).toBe(true);
});

test('a fault of ours is answered without its words', async () => {
  const answer = await fetch(`${url}/sources/a/scenes`, { method: 'POST' });
  expect(answer.status).toBe(500);
  const text = await answer.text();
  expect(text).toContain('This failed because of a fault in Shale.');
  expect(text).not.toContain('SELECT');
});

test('an answer that was sent calls nothing off', async () => {
  let kept: AbortSignal | undefined;
  handle(app, routes.getJob, ({ signal }) => {
    kept = signal;
    throw new ShaleError({ code: 'job-not-found', fact: 'There is none.', wayOut: 'Choose another.' });
  });
  app.use(answerProblem);
  expect((await fetch(`${url}/jobs/none`)).status).toBe(404);
  await wait(50);
  expect(kept!.aborted).toBe(false);
});
