import { existsSync } from 'node:fs';
import { readdir, rm, writeFile } from 'node:fs/promises';
import type { Job } from '@shale/contract';
import { readStill } from '@shale/media';
import { Ground, pictureOf, until } from '../testing/ground.ts';
import type { Jobs } from './jobs.ts';

let ground: Ground;
let jobs: Jobs;
const frames = [1, 2, 3, 4, 5, 6];
beforeAll(async () => {
  ground = await Ground.make();
  await ground.put('shots', 'a', 'pan', frames);
  await ground.put(
    'shots',
    'b',
    'tilt',
    Array.from({ length: 60 }, (_, at) => at + 1),
  );
  await ground.roots.scan('shots');
  jobs = ground.jobs();
  await jobs.begin();
});
afterAll(async () => {
  await jobs.close();
  await ground.leave();
});

const pan = () => ground.source('shots', 'a', 'pan.####.png');
const tilt = () => ground.source('shots', 'b', 'tilt.####.png');
const stateOf = async ({ id }: Job) => (await jobs.get(id)).row.state;
const viewOf = async ({ id }: Job) => (await jobs.get(id)).view();
const comesTo = (job: Job, state: Job['state']) =>
  until(async () => (await stateOf(job)) === state, `job ${job.id} is ${state}`);
const done = (job: Job) => comesTo(job, 'done');

test('a job runs to its end: its files are right, its receipt is kept, every step is told', async () => {
  const source = await pan();
  const job = await jobs.start(source.id, ground.planOf(source, 'one'), { bytes: 100, seconds: 2 });
  expect(['queued', 'running']).toContain(job.state);
  await done(job);
  for (const frame of frames) {
    const { data } = await readStill(ground.in('out', 'one', `pan.000${frame}.tif`));
    expect([...data]).toEqual([...pictureOf(frame).data]);
  }
  const receipt = (await ground.store.getReceipt(job.id))!;
  expect(receipt).toMatchObject({ written: 6, failed: [], estimate: { bytes: 100, seconds: 2 } });
  expect((await jobs.records.writtenBy(job.id)).map(({ index }) => index)).toEqual([0, 1, 2, 3, 4, 5]);
  const states = ground.told.flatMap((event) =>
    event.type === 'job' && event.job.id === job.id ? [event.job.state] : [],
  );
  expect(states[0]).toBe('queued');
  expect(states.at(-1)).toBe('done');
  expect((await jobs.list())[0]).toMatchObject({
    id: job.id,
    written: 6,
    total: 6,
    coverage: [{ first: 1, last: 6, step: 1 }],
  });
});

test('what is in the way is told before anything is queued, and nothing is left behind', async () => {
  const source = await pan();
  const before = (await jobs.list()).length;
  await expect(jobs.start(source.id, ground.planOf(source, 'one'))).rejects.toMatchObject({ code: 'output-exists' });
  await expect(
    jobs.start(source.id, ground.planOf(source, 'x', { into: { root: 'more', folder: 'x' } })),
  ).rejects.toMatchObject({ code: 'root-read-only' });
  expect(await jobs.list()).toHaveLength(before);
  expect(existsSync(ground.in('more', 'x'))).toBe(false);
});

test('of two jobs of the same names one is taken; another folder is written beside it', async () => {
  const source = await tilt();
  const plan = ground.planOf(source, 'two');
  const [first, second] = await Promise.allSettled([jobs.start(source.id, plan), jobs.start(source.id, { ...plan })]);
  expect([first.status, second.status].sort()).toEqual(['fulfilled', 'rejected']);
  expect(second.status === 'rejected' ? second.reason : (first as PromiseRejectedResult).reason).toMatchObject({
    code: 'output-claimed',
  });
  const other = await jobs.start(source.id, ground.planOf(source, 'three'));
  expect(jobs.usingFolder('shots', 'b')).toBeDefined();
  expect(jobs.usingFolder('out', 'three')).toBeDefined();
  expect(jobs.usingFolder('out', 'four')).toBeUndefined();
  await done(other);
  // They share the processes: either may be the last.
  await done((first.status === 'fulfilled' ? first : (second as PromiseFulfilledResult<Job>)).value);
  expect(jobs.usingFolder('shots', 'b')).toBeUndefined();
  expect(await readdir(ground.in('out', 'two'))).toHaveLength(60);
});

test('a stopped job goes on at the next frame; only a stopped one does', async () => {
  const source = await tilt();
  const job = await jobs.start(source.id, ground.planOf(source, 'four'));
  await comesTo(job, 'running');
  const stopped = await jobs.stop(job.id);
  expect(stopped.state).toBe('stopped');
  const written = (await readdir(ground.in('out', 'four')).catch(() => [])).filter((name) => name.endsWith('.tif'));
  expect(written).toHaveLength(stopped.written);
  expect(stopped.written).toBeLessThan(60);
  await jobs.continue(job.id);
  await done(job);
  expect((await ground.store.getReceipt(job.id))!.written).toBe(60);
  await expect(jobs.continue(job.id)).rejects.toMatchObject({ code: 'not-stopped', subject: job.id });
  await expect(jobs.get('gone')).rejects.toThrow('There is no job gone.');
});

test('a damaged frame fails by name; once it is mended it alone is tried again', async () => {
  await ground.put('shots', 'c', 'dolly', [1, 2, 3]);
  await ground.roots.scan('shots');
  const source = await ground.source('shots', 'c', 'dolly.####.png');
  await writeFile(ground.in('shots', 'c', 'dolly.0002.png'), 'no picture');
  const job = await jobs.start(source.id, ground.planOf(source, 'five'));
  await comesTo(job, 'incomplete');
  expect((await ground.store.getReceipt(job.id))!).toMatchObject({
    written: 2,
    failed: [{ frame: 2, name: 'dolly.0002.tif' }],
  });
  await ground.put('shots', 'c', 'dolly', [2]);
  await jobs.continue(job.id);
  await until(async () => (await ground.store.getReceipt(job.id))!.written === 3, 'the mended frame is written');
  expect((await ground.store.getReceipt(job.id))!.failed).toEqual([]);
});

test('what waited when the server ended is taken up by the next one, what was written is not written again', async () => {
  const source = await tilt();
  const job = await jobs.start(source.id, ground.planOf(source, 'six'));
  await until(async () => (await viewOf(job)).written > 0, 'something is written');
  await jobs.close();
  const so = (await viewOf(job)).written;
  jobs = ground.jobs();
  await jobs.begin();
  expect((await viewOf(job)).written).toBe(so);
  await done(job);
  const files = await jobs.records.writtenBy(job.id);
  expect(files).toHaveLength(60);
  expect(new Set(files.map(({ index }) => index)).size).toBe(60);
});

test('a job whose plan no version can read is left out, and the others are there', async () => {
  const source = await pan();
  const row = {
    id: 'odd',
    plan: 'odd',
    source: source.id,
    state: 'queued',
    priority: 'normal',
    place: 0,
    view: null,
    workSeconds: 0,
    problem: null,
  } as const;
  const never = { started: null, finished: null, batch: null, output: 0, madeAs: null };
  await ground.store.putJobs([{ row: { ...row, ...never, created: Date.now() }, plan: { version: 9 } as never }]);
  await jobs.close();
  jobs = ground.jobs();
  await jobs.begin();
  expect((await jobs.list()).map(({ id }) => id)).not.toContain('odd');
  expect((await jobs.list()).length).toBeGreaterThan(4);
});

test('a folder that is gone is told by name before a job is queued', async () => {
  await ground.put('shots', 'd', 'crane', [1, 2]);
  await ground.roots.scan('shots');
  const source = await ground.source('shots', 'd', 'crane.####.png');
  await rm(ground.in('shots', 'd'), { recursive: true });
  await expect(jobs.start(source.id, ground.planOf(source, 'seven'))).rejects.toMatchObject({ code: 'folder-gone' });
});
