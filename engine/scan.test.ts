import { appendFile, copyFile, mkdir, mkdtemp, rename, rm, symlink, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { usualSettings, writeStill, type WriteSettings } from '@shale/media';
import { printCoverage, type Source } from '@shale/core';
import { WorkerPool } from './pool.ts';
import { scanFolders, type ScannedFolder } from './scan.ts';

let pool: WorkerPool;
let folder: string;
beforeAll(() => {
  pool = new WorkerPool(2);
});
afterAll(() => pool.close());
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-scan-'));
});
afterEach(() => rm(folder, { recursive: true, force: true }));

const settings: WriteSettings = { ...usualSettings, effort: 1, quality: 90, tiffCompression: 'none' };
const older = new Date(Date.now() - 3_600_000);

async function put(path: string, seed: number): Promise<void> {
  const data = Uint8Array.from(
    { length: 40 * 30 * 3 },
    (_, at) => (Math.imul(at + seed * 7919, 2_654_435_761) >>> 9) & 255,
  );
  await rm(join(folder, path), { force: true });
  await writeStill(join(folder, path), 'tiff', { width: 40, height: 30, channels: 3, sample: 'u8', data }, settings);
  await utimes(join(folder, path), older, older);
}

async function scan(readings?: string): Promise<{ sources: Source[]; folders: ScannedFolder[]; read: number }> {
  const folders: ScannedFolder[] = [];
  let read = 0;
  const options = {
    readingsOf: readings === undefined ? undefined : () => readings,
    onProgress: (_: string, done: number) => (read = done),
  };
  for await (const scanned of scanFolders(folder, pool, options)) folders.push(scanned);
  return { sources: folders.flatMap((one) => one.sources), folders, read };
}
const told = ({ name, coverage, findings }: Source) =>
  `${name} ${printCoverage(coverage)} [${findings.map(({ code }) => code).join(' ')}]`;

test('a rescan reads only what changed, and tells what that was', async () => {
  const readings = join(tmpdir(), `shale-readings-${process.pid}.bin`);
  try {
    for (let frame = 1; frame <= 9; frame += 1) await put(`a.${frame}.tif`, frame);
    await put('still.tif', 50);
    expect((await scan(readings)).read).toBe(10);
    const second = await scan(readings);
    expect(second.read).toBe(0);
    expect(second.sources.map(told)).toEqual(['a.#.tif 1-9 []', 'still.tif  []']);
    expect(second.sources.every(({ facts }) => facts?.format === 'tiff')).toBe(true);
    await put('a.10.tif', 10);
    await appendFile(join(folder, 'a.3.tif'), 'x');
    await rm(join(folder, 'a.9.tif'));
    await put('still.tif', 51);
    await utimes(join(folder, 'still.tif'), new Date(older.getTime() + 5000), new Date(older.getTime() + 5000));
    const third = await scan(readings);
    expect(third.read).toBe(3);
    expect(third.sources[0]!.change).toMatchObject({ added: 1, edited: 1, removed: 1 });
    expect(third.sources[1]!.change).toMatchObject({ edited: 1 });
    expect((await scan(readings)).sources[0]!.change).toEqual(third.sources[0]!.change);
    // A memory that is broken costs a reading and nothing else.
    await writeFile(readings, 'no memory');
    expect((await scan(readings)).read).toBe(10);
  } finally {
    await rm(readings, { force: true });
  }
});

test('pictures that samples take for one are compared whole', async () => {
  for (let frame = 1; frame <= 6; frame += 1) await put(`b.${frame}.tif`, frame);
  for (const frame of [3, 4]) {
    await copyFile(join(folder, 'b.2.tif'), join(folder, `b.${frame}.tif`));
    await utimes(join(folder, `b.${frame}.tif`), older, older);
  }
  const [frozen] = (await scan()).sources;
  expect(frozen!.findings).toMatchObject([{ code: 'repeated-frames', frames: [{ first: 3, last: 4, step: 1 }] }]);
  expect(frozen!.findings[0]!.sentence).not.toContain('samples');
});

test('folders are walked by name, links are said and not followed, what goes away in the middle is no fault', async () => {
  await mkdir(join(folder, 'b', 'deep'), { recursive: true });
  await mkdir(join(folder, 'a'));
  await mkdir(join(folder, '.hidden'));
  await put('b/deep/x.1.tif', 1);
  await put('b/deep/x.2.tif', 2);
  await symlink(folder, join(folder, 'a', 'circle'));
  const { folders } = await scan();
  expect(folders.map((one) => one.folder)).toEqual(['', 'a', 'b', 'b/deep']);
  expect(folders[1]!.notes).toMatchObject([{ code: 'links-not-followed', subject: 'a' }]);
  const seen: string[] = [];
  for await (const scanned of scanFolders(folder, pool)) {
    seen.push(scanned.folder);
    if (scanned.folder === 'a') await rename(join(folder, 'b'), join(folder, 'c'));
  }
  expect(seen).toEqual(['', 'a', 'b']);
});

test('a scan that is stopped ends without a word, and one whose process is killed says so', async () => {
  for (let frame = 1; frame <= 40; frame += 1) await put(`c.${frame}.tif`, frame);
  const stop = new AbortController();
  const found = [];
  for await (const scanned of scanFolders(folder, pool, { signal: stop.signal, onProgress: () => stop.abort() }))
    found.push(scanned);
  expect(found).toEqual([]);
  const fragile = new WorkerPool(1);
  const scanning = (async () => {
    for await (const _ of scanFolders(folder, fragile)) fragile.pids.forEach((pid) => process.kill(pid, 'SIGKILL'));
  })();
  fragile.warm();
  for (const pid of fragile.pids) process.kill(pid, 'SIGKILL');
  await expect(scanning).rejects.toMatchObject({ code: 'worker-crashed' });
  await fragile.close();
  await expect(fragile.run('probe', [])).rejects.toMatchObject({ code: 'worker-crashed' });
});
