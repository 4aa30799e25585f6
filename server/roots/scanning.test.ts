import { appendFile, mkdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Ground, until } from '../testing/ground.ts';

let ground: Ground;
beforeAll(async () => {
  ground = await Ground.make();
  await ground.put('shots', 'a', 'pan', [1, 2, 4]);
  await ground.put('shots', 'b/deep', 'tilt', [1, 2]);
});
afterAll(() => ground.leave());

const listed = async (root = 'shots') =>
  (await ground.store.sources.list({ root })).map(({ folder, name }) => join(folder, name)).sort();
const root = async (id = 'shots') => (await ground.roots.list()).find((one) => one.id === id)!;

test('a scan lists what is there, counts it, and tells of its end', async () => {
  expect((await root()).scanned).toBeNull();
  await Promise.all([ground.roots.scan('shots'), ground.roots.scan('shots')]);
  expect(await listed()).toEqual(['a/pan.####.png', 'b/deep/tilt.####.png']);
  expect(await root()).toMatchObject({ sources: 2, files: 5, scanning: false, problem: null, notes: [] });
  expect((await ground.source('shots', 'a', 'pan.####.png')).findings.map(({ code }) => code)).toContain(
    'missing-frames',
  );
  expect(ground.told.some((event) => event.type === 'root' && event.root.id === 'shots')).toBe(true);
  expect(ground.told.some((event) => event.type === 'sources' && event.root === 'shots')).toBe(true);
});

test('a folder that changes is found by itself; one that goes takes its sources along', async () => {
  await ground.put('shots', 'c', 'dolly', [1, 2, 3]);
  await until(async () => (await listed()).includes('c/dolly.####.png'), 'the new folder is listed');
  await rename(ground.in('shots', 'c', 'dolly.0003.png'), ground.in('shots', 'c', 'dolly.0004.png'));
  await until(
    async () => (await ground.source('shots', 'c', 'dolly.####.png')).coverage[0]!.last === 2,
    'the gap is seen',
  );
  await rm(ground.in('shots', 'c'), { recursive: true });
  await until(async () => !(await listed()).includes('c/dolly.####.png'), 'the folder is gone from the list');
  expect(await listed()).toEqual(['a/pan.####.png', 'b/deep/tilt.####.png']);
});

test('what is still being written is called that until it has been quiet, and told of when it is whole', async () => {
  await mkdir(ground.in('shots', 'grows'));
  const path = ground.in('shots', 'grows', 'note.wav');
  let bytes = 0;
  const write = async () => {
    await appendFile(path, Buffer.alloc(64));
    bytes += 64;
  };
  const codes = async () =>
    (await ground.store.sources.list({ root: 'shots', folder: 'grows' })).flatMap(({ findings }) =>
      findings.map(({ code }) => code),
    );
  // Whoever writes goes on until it is seen: on a busy machine a scan may come after the quiet time.
  await until(async () => {
    await write();
    return (await codes()).includes('still-writing');
  }, 'it is seen while it is written');
  await write();
  // The quiet time of these tests is half a second.
  await until(async () => {
    const found = await ground.store.sources.list({ root: 'shots', folder: 'grows' });
    return found[0]?.bytes === bytes && !(await codes()).includes('still-writing');
  }, 'it has come to rest');
  expect(ground.told.some((event) => event.type === 'settled' && event.name.includes('note'))).toBe(true);
});

test('a root that is not there says so, and is well again once it is', async () => {
  await rename(ground.in('more'), ground.in('away'));
  await ground.roots.scan('more');
  expect((await root('more')).problem).toMatchObject({ wayOut: expect.any(String) });
  await rename(ground.in('away'), ground.in('more'));
  await ground.put('more', '', 'far', [1]);
  await ground.roots.scan('more');
  expect(await root('more')).toMatchObject({ problem: null, sources: 1 });
});

test('roots are asked for by their id, and only some may be written', () => {
  expect(() => ground.roots.config('elsewhere')).toThrow('There is no root "elsewhere".');
  expect(() => ground.roots.writable('more')).toThrow('is read-only');
  expect(ground.roots.writable('out').path).toBe(ground.in('out'));
  expect(ground.roots.firstWritable()).toBe('shots');
});
