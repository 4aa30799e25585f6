import { existsSync } from 'node:fs';
import { readFile, truncate, unlink, writeFile } from 'node:fs/promises';
import { gzipSync } from 'node:zlib';
import type { Job } from '@shale/contract';
import { backUp, restore } from './backup.ts';
import type { Jobs } from './jobs/jobs.ts';
import { Prune } from './prune.ts';
import { Ground, until } from './testing/ground.ts';

// What the server keeps: back-ups, the archive, and jobs that people steer.

let ground: Ground;
let jobs: Jobs;
beforeAll(async () => {
  ground = await Ground.make();
  await ground.put(
    'shots',
    'a',
    'pan',
    Array.from({ length: 40 }, (_, at) => at + 1),
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
const stateOf = async (id: string) => (await jobs.get(id)).row.state;
const run = async (folder: string): Promise<Job> => {
  const source = await pan();
  return jobs.start(source.id, ground.planOf(source, folder));
};
const ended = (id: string, state: Job['state'] = 'done') =>
  until(async () => (await stateOf(id)) === state, `${id} is ${state}`);

test('what was written and is gone makes a job incomplete; it alone is made again', async () => {
  const { id } = await run('gone');
  await until(async () => (await jobs.get(id)).sum.written > 2, 'something is written');
  await jobs.stop(id);
  const [first] = await jobs.records.writtenBy(id);
  await unlink(ground.in('out', 'gone', first!.name));
  await jobs.continue(id);
  await ended(id, 'incomplete');
  expect((await ground.store.getReceipt(id))!.failed).toMatchObject([{ code: 'result-gone', name: first!.name }]);
  await jobs.continue(id);
  await ended(id);
  expect((await ground.store.getReceipt(id))!).toMatchObject({ written: 40, failed: [] });
  const told = (await jobs.logOf(id)).map(({ text }) => text);
  expect(told[0]).toBe('begins');
  expect(told.at(-1)).toBe('ended: 40 written, 0 failed');
});

test('some results are made again in place of what the job wrote, and not of what somebody else did', async () => {
  const { id } = await run('again');
  await ended(id);
  const name = (frame: number) => ground.in('out', 'again', `pan.${String(frame).padStart(4, '0')}.tif`);
  const before = await readFile(name(3));
  await jobs.continue(id, { again: [{ first: 3, last: 4, step: 1 }] });
  await ended(id);
  expect((await readFile(name(3))).equals(before)).toBe(true);
  expect(await jobs.records.writtenBy(id)).toHaveLength(40);
  await writeFile(name(4), 'mine');
  await expect(jobs.continue(id, { again: [{ first: 4, last: 4, step: 1 }] })).rejects.toMatchObject({
    code: 'result-changed',
  });
  expect(await stateOf(id)).toBe('done');
  expect(await readFile(name(4), 'utf8')).toBe('mine');
});

test('more than three wait, in an order that a person gives; the cancelled do not go on', async () => {
  const signal = (name: NodeJS.Signals) => ground.pool.pids.forEach((pid) => process.kill(pid, name));
  // Nothing comes to its end while the line is looked at.
  signal('SIGSTOP');
  const all: string[] = [];
  for (const folder of ['o1', 'o2', 'o3', 'o4', 'o5', 'o6']) all.push((await run(folder)).id);
  const queued = async () => {
    const views = await Promise.all(all.map(async (id) => (await jobs.get(id)).view()));
    return views
      .filter(({ state }) => state === 'queued')
      .sort((a, b) => a.place - b.place)
      .map(({ id }) => id);
  };
  const [first, second, last] = (await queued()) as [string, string, string];
  expect(await queued()).toEqual([first, second, last]);
  await jobs.order(last, { before: first });
  expect(await queued()).toEqual([last, first, second]);
  await jobs.order(last, { before: null });
  expect(await queued()).toEqual([first, second, last]);
  await jobs.order(second, { priority: 'first' });
  expect((await jobs.get(second)).row.priority).toBe('first');
  await jobs.cancel(last);
  await expect(jobs.continue(last)).rejects.toMatchObject({ code: 'not-stopped' });
  signal('SIGCONT');
  for (const id of all) if (id !== last) await ended(id);
});

test('all that the database holds is backed up and comes back; what is no back-up changes nothing', async () => {
  const path = ground.in('all.gz');
  const rows = await ground.store.withAll((knex) => backUp(knex, path));
  expect(rows).toBeGreaterThan(5);
  const before = await ground.store.listJobs({ limit: 100 });
  await ground.store.removeJob(before[0]!.id);
  expect(await ground.store.withAll((knex) => restore(knex, path))).toBe(rows);
  expect(await ground.store.listJobs({ limit: 100 })).toEqual(before);
  await writeFile(ground.in('odd.gz'), gzipSync('{"shaleBackup":1,"schema":"001-first","at":"x"}\n'));
  await writeFile(ground.in('none.gz'), 'no zip at all');
  const whole = await readFile(path);
  await writeFile(ground.in('cut.gz'), whole);
  await truncate(ground.in('cut.gz'), Math.floor(whole.length / 2));
  for (const name of ['odd.gz', 'none.gz', 'cut.gz', 'nothing.gz'])
    await expect(ground.store.withAll((knex) => restore(knex, ground.in(name)))).rejects.toMatchObject({
      code: 'bad-backup',
    });
  expect(await ground.store.listJobs({ limit: 100 })).toEqual(before);
});

test('old jobs go into the archive, whole, and only those that cannot go on', async () => {
  const prune = new Prune(ground.store, ground.in('journal'), ground.in('archive'), 30);
  expect(await prune.look()).toBe(0);
  const done = (await ground.store.listJobs({ limit: 100 })).filter(
    ({ state }) => state === 'done' || state === 'cancelled',
  );
  expect(await prune.look(Date.now() + 31 * 86_400_000)).toBe(done.length);
  expect((await ground.store.listJobs({ limit: 100 })).map(({ state }) => state)).not.toContain('done');
  const [one] = done;
  const kept = JSON.parse(await readFile(ground.in('archive', `${one!.id}.json`), 'utf8')) as Record<string, unknown>;
  expect(Object.keys(kept)).toEqual(['job', 'plan', 'receipt', 'journal', 'log']);
  expect(existsSync(ground.in('journal', `${one!.id}.ndjson`))).toBe(false);
  expect(await new Prune(ground.store, ground.in('journal'), ground.in('archive'), null).look()).toBe(0);
});
