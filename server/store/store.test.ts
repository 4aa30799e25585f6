import { mkdtemp, readFile, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createConnection } from 'mysql2/promise';
import { describeFolder, parseSpec } from '@shale/core';
import { startDatabase, type Database } from './mariadb.ts';
import { sourceId, Store } from './store.ts';

// A real MariaDB of its own, as the server starts it.
let folder: string;
let database: Database;
let store: Store;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-store-'));
  database = await startDatabase(folder);
  store = await Store.open(database);
});
afterAll(async () => {
  await store.close();
  await database.stop();
  await rm(folder, { recursive: true, force: true });
});

const sources = (count: number) => {
  const names = Array.from({ length: count }, (_, at) => `ünï_${at + 1}.png`);
  return describeFolder('shots', { names, bytes: names.map(() => 5), modified: names.map(() => 1.5) }).sources.map(
    ({ source }) => source,
  );
};
const spec = parseSpec({ version: 1, write: { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb' } });

test('the account has a password, and no other may enter', async () => {
  expect((await stat(join(folder, 'password'))).mode & 0o077).toBe(0);
  expect((await readFile(join(folder, 'password'), 'utf8')).length).toBe(36);
  const enter = (user: string, password: string) =>
    createConnection({ host: '127.0.0.1', port: database.port, user, password });
  await expect(enter('root', '')).rejects.toThrow(/denied|not allowed/);
  await expect(enter('', '')).rejects.toThrow(/denied|not allowed/);
  await expect(enter('shale', 'wrong')).rejects.toThrow(/denied/);
});

test('a source is one row, found again under the same id, its word kept over scans', async () => {
  await store.putSources('r', sources(3), 1);
  const id = sourceId('r', 'shots', 'ünï_#.png');
  await store.putWord(id, { rate: { num: 24, den: 1 } });
  await store.putSources('r', sources(5), 2);
  await store.dropSourcesBefore('r', 2);
  const [source] = await store.listSources('r');
  expect(source).toMatchObject({
    id,
    files: 5,
    declaration: { rate: { value: { num: 24, den: 1 }, grounds: 'word' } },
  });
  expect(await store.countSources()).toEqual(new Map([['r', 1]]));
  await store.putSources('r', [], 3);
  await store.dropSourcesBefore('r', 3);
  expect(await store.getSource(id)).toBeUndefined();
  await store.putSources('r', sources(3), 4);
  expect((await store.getSource(id))!.declaration.rate.grounds).toBe('word');
});

test('100,000 frames are one row of a few kilobytes', async () => {
  const [source] = describeFolder(
    '',
    groupFiles(Array.from({ length: 100_000 }, (_, at) => ({ name: `b.${at}.png`, bytes: at, modified: 0 }))),
  );
  await store.putSources('big', [source!], 1);
  expect(JSON.stringify(await store.listSources('big')).length).toBeLessThan(12_000);
});

test('specs are saved by name, in versions', async () => {
  expect(await store.saveSpec('plate', spec)).toMatchObject({ name: 'plate', version: 1 });
  const again = await store.saveSpec('plate', { ...spec, existing: 'replace' });
  expect(again).toMatchObject({ version: 2, spec: { existing: 'replace' } });
  expect(await store.deleteSpec(again.id)).toBe(true);
  expect(await store.deleteSpec(again.id)).toBe(false);
});

test('what is kept outlives the database process, and an orphan of it is ended', async () => {
  await store.putScan({ root: 'r', number: 7, files: 1, bytes: 2 ** 40, finished: 'then' });
  await store.close();
  // Started over a running one, as after a killed server: the old process must go first.
  const again = await startDatabase(folder);
  await database.stop();
  database = again;
  store = await Store.open(database);
  expect(await store.listScans()).toEqual([{ root: 'r', number: 7, files: 1, bytes: 2 ** 40, finished: 'then' }]);
});
