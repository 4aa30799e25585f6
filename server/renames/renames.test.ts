import { existsSync } from 'node:fs';
import { mkdir, readdir, utimes, writeFile } from 'node:fs/promises';
import type { Rename } from '@shale/contract';
import type { Jobs } from '../jobs/jobs.ts';
import { sourceId } from '../store/sources.ts';
import { Ground, until } from '../testing/ground.ts';
import { Renames } from './renames.ts';

let ground: Ground;
let jobs: Jobs;
let renames: Renames;
const make = () => new Renames(ground.store, ground.roots, jobs, ground.events, ground.in('renames'), ground.pool);
beforeAll(async () => {
  ground = await Ground.make();
  await mkdir(ground.in('renames'));
  jobs = ground.jobs();
  renames = make();
  await renames.begin();
});
afterAll(async () => {
  await renames.close();
  await jobs.close();
  await ground.leave();
});

const id = (folder: string, name: string, root = 'shots') => sourceId(root, folder, name);
const names = async (...path: string[]) => (await readdir(ground.in(...path))).sort();
const ended = (rename: Rename) =>
  until(() => renames.list().find((one) => one.id === rename.id)?.state !== 'running', 'the rename ends');
async function put(folder: string, stem: string, count = 3, root = 'shots'): Promise<string> {
  await ground.put(
    root,
    folder,
    stem,
    Array.from({ length: count }, (_, at) => at + 1),
  );
  await ground.roots.scan(root);
  return id(folder, `${stem}.####.png`, root);
}
const spec = (stem: string, more: object = {}) => ({
  version: 1,
  rules: [{ kind: 'template', template: `${stem}.{frame:4}.{ext}` }],
  ...more,
});
async function run(source: string, given: object): Promise<Rename> {
  const { digest } = await renames.plan([source], given);
  return renames.start([source], given, digest);
}

test('files are renamed, what was said of their source goes along, and undo brings both back', async () => {
  const source = await put('a', 'pan');
  await ground.store.sources.putWord(source, { rate: { num: 24, den: 1 } });
  await ground.store.marks.putMarkers(source, {
    version: 0,
    markers: [{ frame: 2, length: 1, name: 'door', note: '', colour: 'ochre' }],
  });
  const done = await run(source, spec('yard'));
  await ended(done);
  expect(await names('shots', 'a')).toEqual(['yard.0001.png', 'yard.0002.png', 'yard.0003.png']);
  const after = id('a', 'yard.####.png');
  expect(renames.list()[0]).toMatchObject({ id: done.id, state: 'done', files: 3, sources: [after], problem: null });
  const rate = { value: { num: 24, den: 1 }, grounds: 'word' };
  expect((await ground.store.sources.get(after))!.declaration.rate).toMatchObject(rate);
  expect((await ground.store.marks.markers(after)).markers).toMatchObject([{ frame: 2, name: 'door' }]);
  expect(await ground.store.sources.get(source)).toBeUndefined();

  const back = await renames.undo(done.id, false);
  await ended(back);
  expect(await names('shots', 'a')).toEqual(['pan.0001.png', 'pan.0002.png', 'pan.0003.png']);
  expect((await ground.store.sources.get(source))!.declaration.rate).toMatchObject(rate);
  expect(renames.list().find((one) => one.id === done.id)!.state).toBe('undone');
  await expect(renames.undo(done.id, false)).rejects.toMatchObject({ code: 'not-undoable' });
  // What was brought back is done again, under the words of the first.
  const again = await renames.undo(back.id, false);
  await ended(again);
  expect(await names('shots', 'a')).toEqual(['yard.0001.png', 'yard.0002.png', 'yard.0003.png']);
  expect([back.sentence, again.sentence]).toEqual([done.sentence, done.sentence]);
});

test('what cannot be is refused by its code, and nothing is touched', async () => {
  const source = await put('b', 'pan');
  const elsewhere = await put('', 'far', 2, 'more');
  await expect(renames.plan(['gone'], spec('x'))).rejects.toMatchObject({ code: 'source-not-found' });
  await expect(renames.plan([source, 'gone'], spec('x'))).rejects.toMatchObject({ code: 'source-not-found' });
  await expect(renames.plan([source, elsewhere], spec('x'))).rejects.toMatchObject({ code: 'mixed-roots' });
  await expect(renames.plan([source], { version: 1, rules: [{ kind: 'odd' }] })).rejects.toMatchObject({
    code: 'bad-names',
  });
  const outside = await renames.plan(
    [source],
    spec('x', { mode: 'copy', into: { root: 'out', folder: '../outside' } }),
  );
  expect(outside.plan.problems).toMatchObject([{ code: 'bad-template', subject: 'into.folder' }]);
  const readOnly = await renames.plan([elsewhere], spec('x'));
  expect(readOnly.plan.problems[0]).toMatchObject({ code: 'root-read-only', subject: 'more' });
  await expect(renames.start([elsewhere], spec('x'), readOnly.digest)).rejects.toMatchObject({
    code: 'root-read-only',
  });
  expect(() => renames.planned('nothing')).toThrow('has expired');
  await expect(renames.undo('gone', false)).rejects.toMatchObject({ code: 'rename-not-found' });
  expect(await names('shots', 'b')).toHaveLength(3);
  expect(await names('more')).toEqual(['far.0001.png', 'far.0002.png']);
});

test('names that were shown are run, or none: a folder that changed since is looked at again', async () => {
  const source = await put('c', 'pan');
  const { digest } = await renames.plan([source], spec('x'));
  await put('c', 'pan', 4);
  await expect(renames.start([source], spec('x'), digest)).rejects.toMatchObject({ code: 'plan-changed' });
  await expect(renames.start([source], spec('other'), digest)).rejects.toMatchObject({ code: 'plan-changed' });
  expect(await names('shots', 'c')).toHaveLength(4);
});

test('a file that was worked on since is told, and undo of the rest leaves it', async () => {
  const source = await put('d', 'pan');
  const done = await run(source, spec('copy', { mode: 'copy', into: { root: 'out', folder: 'd' } }));
  await ended(done);
  expect(await names('out', 'd')).toHaveLength(3);
  await writeFile(ground.in('out', 'd', 'copy.0002.png'), 'worked on');
  await expect(renames.undo(done.id, false)).rejects.toMatchObject({ code: 'touched-since' });
  await ended(await renames.undo(done.id, true));
  expect(await names('out', 'd')).toEqual(['copy.0002.png']);
  expect(await names('shots', 'd')).toHaveLength(3);
});

test('a job keeps its folders: they are renamed once it has ended', async () => {
  const source = await put('e', 'pan', 40);
  const job = await jobs.start(source, ground.planOf(await ground.source('shots', 'e', 'pan.####.png'), 'e'));
  await expect(run(source, spec('x'))).rejects.toMatchObject({ code: 'folder-in-use', subject: job.id });
  await until(async () => (await jobs.get(job.id)).row.state === 'done', 'the job is done');
  await ended(await run(source, spec('x')));
  expect((await names('shots', 'e'))[0]).toBe('x.0001.png');
});

test('the next server settles what one left running, and one whose journal is gone was not carried out', async () => {
  const source = await put('f', 'pan');
  const done = await run(source, spec('x'));
  await ended(done);
  const [row] = (await ground.store.names.listRenames()).filter((one) => one.id === done.id);
  // As a server that was killed leaves them: one after its last step, one before its first.
  await ground.store.names.putRename({ ...row!, state: 'running', finished: null });
  await ground.store.names.putRename({ ...row!, id: 'lost', state: 'running', finished: null });
  await renames.close();
  renames = make();
  await renames.begin();
  const state = (one: string) => renames.list().find((rename) => rename.id === one)!.state;
  expect([state(done.id), state('lost')]).toEqual(['done', 'back']);
  await expect(renames.undo('lost', false)).rejects.toMatchObject({ code: 'not-undoable' });
  await ended(await renames.undo(done.id, false));
  expect((await names('shots', 'f'))[0]).toBe('pan.0001.png');
});

test('a rename that is stopped as soon as it is in the list is stopped', async () => {
  const source = await put('h', 'pan', 3);
  const { digest } = await renames.plan([source], spec('x'));
  const before = renames.list().length;
  const starting = renames.start([source], spec('x'), digest);
  while (renames.list().length === before) await new Promise((next) => setImmediate(next));
  expect((await renames.stop(renames.list()[0]!.id)).state).toBe('back');
  await starting;
  expect((await names('shots', 'h'))[0]).toBe('pan.0001.png');
});

test('a rename that is stopped leaves every file as it was', async () => {
  const folder = ground.in('shots', 'g');
  await mkdir(folder);
  const hourAgo = new Date(Date.now() - 3_600_000);
  for (let frame = 1; frame <= 60; frame += 1) {
    const path = `${folder}/heavy.${String(frame).padStart(4, '0')}.png`;
    await writeFile(path, Buffer.alloc(4 << 20, frame));
    await utimes(path, hourAgo, hourAgo);
  }
  await ground.roots.scan('shots');
  const source = id('g', 'heavy.####.png');
  const given = spec('x', { mode: 'copy', into: { root: 'out', folder: 'g' } });
  const { digest } = await renames.plan([source], given);
  const starting = renames.start([source], given, digest);
  const running = () => renames.list().find(({ state }) => state === 'running');
  await until(() => running() !== undefined || renames.list()[0]!.sentence.includes('60 files'), 'it runs');
  const stopped = await renames.stop(renames.list()[0]!.id);
  await starting;
  expect(['back', 'done']).toContain(stopped.state);
  const there = existsSync(ground.in('out', 'g')) ? await names('out', 'g') : [];
  expect(there).toHaveLength(stopped.state === 'back' ? 0 : 60);
  expect(await names('shots', 'g')).toHaveLength(60);
});
