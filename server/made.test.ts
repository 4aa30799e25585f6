import { existsSync } from 'node:fs';
import { readdir, stat, utimes, writeFile } from 'node:fs/promises';
import { readStill } from '@shale/media';
import type { ListedSource } from '@shale/contract';
import type { Jobs } from './jobs/jobs.ts';
import { MadeSources } from './made.ts';
import { Previews } from './previews.ts';
import { shownFrame } from './shown.ts';
import { Ground, pictureOf, until } from './testing/ground.ts';

let ground: Ground;
let jobs: Jobs;
let made: MadeSources;
let previews: Previews;
let source: ListedSource;
beforeAll(async () => {
  ground = await Ground.make();
  await ground.put('shots', 'a', 'pan', [1, 2, 3, 5]);
  await ground.roots.scan('shots');
  source = await ground.source('shots', 'a', 'pan.####.png');
  jobs = ground.jobs();
  made = new MadeSources(ground.in('proofs'), ground.pool, ground.store, ground.roots, jobs);
  previews = new Previews(ground.in('previews'), ground.pool);
  await Promise.all([made.begin(), previews.begin()]);
});
afterAll(async () => {
  await jobs.close();
  await ground.leave();
});

describe('proofs', () => {
  test('frames are made for real and become a source; what is there is not made again', async () => {
    const plan = ground.planOf(source, 'proved');
    const proof = await made.prove(source, plan, [2, 5]);
    expect(proof.frames.map(({ sourceFrame }) => sourceFrame)).toEqual([2, 5]);
    expect(proof.source).toMatchObject({ kind: 'sequence', name: 'pan.####.tif', facts: { format: 'tiff' } });
    const folder = made.folderOf(proof.source!);
    const file = `${folder}/proved/pan.0005.tif`;
    expect([...(await readStill(file)).data]).toEqual([...pictureOf(5).data]);
    const before = (await stat(file)).mtimeMs;
    const more = await made.prove(source, plan, [5, 1]);
    expect(more.id).toBe(proof.id);
    expect(more.frames.map(({ sourceFrame }) => sourceFrame)).toEqual([1, 2, 5]);
    expect((await stat(file)).mtimeMs).toBe(before);
    expect(await made.find(proof.id)).toEqual(more.source);
    expect(existsSync(ground.in('out', 'proved'))).toBe(false);
    expect(await made.exactness(proof.id, 5)).toMatchObject({ most: 0 });
    await expect(made.exactness(proof.id, 3)).rejects.toMatchObject({ code: 'proof-gone' });
  });

  test('a frame that cannot be read is told by its number, the others are made', async () => {
    const damaged = ground.in('shots', 'a', 'pan.0003.png');
    await writeFile(damaged, 'no picture');
    const proof = await made.prove(source, ground.planOf(source, 'other'), [2, 3]);
    expect(proof.frames.map(({ sourceFrame }) => sourceFrame)).toEqual([2]);
    expect(proof.problems).toMatchObject([{ sourceFrame: 3, code: expect.any(String) }]);
    await ground.put('shots', 'a', 'pan', [3]);
    const again = await made.prove(source, ground.planOf(source, 'other'), [3]);
    expect(again.problems).toEqual([]);
  });

  test('two who ask for one frame at once get the same; one who gives it up takes it from nobody', async () => {
    const plan = ground.planOf(source, 'both');
    const gone = new AbortController();
    const first = made.prove(source, plan, [1], gone.signal);
    const second = made.prove(source, plan, [1]);
    gone.abort();
    expect((await second).frames.map(({ sourceFrame }) => sourceFrame)).toEqual([1]);
    await first;
    const [third, fourth] = await Promise.all([1, 2].map(() => made.prove(source, plan, [2])));
    expect(third).toEqual(fourth);
  });

  test('of many proofs the oldest goes, from the disk too', async () => {
    const ids: string[] = [];
    for (let at = 0; at < 13; at += 1)
      ids.push((await made.prove(source, ground.planOf(source, `many_${at}`), [1])).id);
    expect(await made.find(ids[0]!)).toBeUndefined();
    expect(await made.find(ids[12]!)).toBeDefined();
    await until(async () => (await readdir(ground.in('proofs'))).length === 12, 'the oldest is taken from the disk');
  });
});

test('results of a job are a source as they lie on the disk', async () => {
  // The third frame was made anew above.
  await ground.roots.scan('shots');
  source = await ground.source('shots', 'a', 'pan.####.png');
  const job = await jobs.start(source.id, ground.planOf(source, 'results'));
  await until(async () => (await jobs.get(job.id)).row.state === 'done', 'the job is done');
  const found = (await made.find(`made-${job.id}`))!;
  expect(found).toMatchObject({
    root: 'out',
    folder: 'results',
    name: 'pan.####.tif',
    files: 4,
    facts: { width: 4, height: 2, format: 'tiff' },
    declaration: { transfer: { value: 'srgb', grounds: 'word' } },
  });
  expect(made.folderOf(found)).toBe(ground.in('out'));
  expect(await made.find('made-gone')).toBeUndefined();
  expect(await made.find('anything')).toBeUndefined();
});

test('stills that have a name each are looked at by their names', async () => {
  const marker = (frame: number, name: string) => ({ frame, length: 1, name, note: '', colour: 'ochre' as const });
  const spec = { frames: 'markers', names: { template: '{marker}.{ext}' } };
  const markers = [marker(2, 'door'), marker(5, 'bell')];
  const job = await jobs.start(source.id, ground.planOf(source, 'marked', spec, { markers }));
  await until(async () => (await jobs.get(job.id)).row.state === 'done', 'the job is done');
  expect((await readdir(ground.in('out', 'marked'))).sort()).toEqual(['bell.tif', 'door.tif']);
  const found = (await made.find(`made-${job.id}`))!;
  expect(found).toMatchObject({ kind: 'sequence', name: 'door.tif and 1 more', files: 2 });
  const [first, second] = found.irregular;
  expect([first!.name, second!.name]).toEqual(['door.tif', 'bell.tif']);
  expect((await shownFrame(found, made.folderOf(found), second!.frame)).file.path).toBe(
    ground.in('out', 'marked', 'bell.tif'),
  );
});

describe('previews', () => {
  const frame = (number: number) => shownFrame(source, ground.in('shots'), number);
  const patient = () => new AbortController().signal;

  test('is made once for all who ask, kept, and made anew for a file that changed', async () => {
    const asked = await frame(1);
    const [one, two] = await Promise.all([
      previews.get(asked, 64, 'quick', patient()),
      previews.get(asked, 64, 'quick', patient()),
    ]);
    expect(one).toBe(two);
    const made = (await stat(one)).ino;
    expect((await stat(await previews.get(asked, 64, 'quick', patient()))).ino).toBe(made);
    expect(await previews.get(asked, 32, 'quick', patient())).not.toBe(one);
    const now = new Date();
    await utimes(asked.file.path, now, now);
    expect(await previews.get(await frame(1), 64, 'quick', patient())).not.toBe(one);
  });

  test('goes on while anybody waits, and is asked for anew by who comes after all have left', async () => {
    const [asked, leaves] = [await frame(2), new AbortController()];
    const first = previews.get(asked, 64, 'png', leaves.signal);
    const second = previews.get(asked, 64, 'png', patient());
    leaves.abort();
    const path = await second;
    await expect(first).resolves.toBe(path);
    expect(existsSync(path)).toBe(true);

    const gone = new AbortController();
    const alone = previews.get(await frame(5), 64, 'png', gone.signal).catch((error: unknown) => error);
    gone.abort();
    await alone;
    expect(existsSync(await previews.get(await frame(5), 64, 'png', patient()))).toBe(true);
  });

  test('of a frame that is missing, gone or damaged is refused by its code', async () => {
    await expect(frame(4)).rejects.toMatchObject({ code: 'frame-missing', subject: '4' });
    const asked = await frame(3);
    await writeFile(asked.file.path, 'no picture');
    await expect(previews.get(await frame(3), 64, 'quick', patient())).rejects.toMatchObject({
      fact: expect.stringContaining('pan.0003.png'),
    });
    await expect(shownFrame({ ...source, folder: 'nowhere' }, ground.in('shots'), 1)).rejects.toMatchObject({
      code: 'file-gone',
    });
  });
});
