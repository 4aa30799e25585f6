import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, readFile, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createConnection } from 'mysql2/promise';
import { describeFolder, namingSpecSchema, parseSpec, shippedReceivers, versionIn, type Source } from '@shale/core';
import { startDatabase, type Database } from './mariadb.ts';
import { sourceId } from './sources.ts';
import { Store } from './store.ts';

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
  return describeFolder('shots', { names, bytes: names.map(() => 5), modified: names.map(() => 1.5) }).sequences.map(
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

const put = (root: string, list: Source[], scan: number) => store.sources.put(root, list, scan);

test('a source is one row, found again under the same id, its word kept over scans', async () => {
  await put('r', sources(3), 1);
  const id = sourceId('r', 'shots', 'ünï_#.png');
  await store.sources.putWord(id, { rate: { num: 24, den: 1 } });
  await put('r', sources(5), 2);
  await store.sources.dropBefore('r', 2);
  const [source] = await store.sources.list({ root: 'r' });
  expect(source).toMatchObject({
    id,
    files: 5,
    declaration: { rate: { value: { num: 24, den: 1 }, grounds: 'word' } },
  });
  expect(await store.sources.countByRoot()).toEqual(new Map([['r', 1]]));
  await put('r', [], 3);
  await store.sources.dropBefore('r', 3);
  expect(await store.sources.get(id)).toBeUndefined();
  await put('r', sources(3), 4);
  expect((await store.sources.get(id))!.declaration.rate.grounds).toBe('word');
});

test('100,000 frames are one row of a few kilobytes', async () => {
  const names = Array.from({ length: 100_000 }, (_, at) => `b.${at}.png`);
  const [one] = describeFolder('', { names, bytes: names.map((_, at) => at), modified: names.map(() => 0) }).sequences;
  await put('big', [one!.source], 1);
  const all = await store.sources.list({ root: 'big' });
  expect(JSON.stringify(all).length).toBeLessThan(12_000);
  const [narrow] = await store.sources.list({ root: 'big' }, { parts: 64 });
  expect(narrow!.weights).toHaveLength(64);
  expect(narrow!.weights[63]).toBeGreaterThan(97_000);
});

describe('lists', () => {
  const one = (folder: string, name: string, more: Partial<Source> = {}): Source => ({
    kind: 'sequence',
    folder,
    name,
    coverage: [{ first: 1, last: 10, step: 1 }],
    irregular: [],
    doubled: [],
    files: 10,
    bytes: 100,
    modified: Date.now() - 5 * 3_600_000,
    weights: [10],
    findings: [],
    ...versionIn(folder === '' ? name : `${folder}/${name}`),
    ...more,
  });
  const fault = {
    code: 'missing-frames' as const,
    severity: 'fault' as const,
    sentence: 'Frame 3 is missing.',
    short: 'x',
  };
  const all = [
    one('a', 'cam_10.#.png'),
    one('a', 'cam_2.#.png', { findings: [fault], modified: Date.now() }),
    one('a/deep', 'x_24fps.#.png', { bytes: 900 }),
    one('A', 'upper.#.png'),
    one('ab', 'pan_v01.#.png'),
    one('ab', 'pan_v02.#.png'),
    one('ab', 'other.#.png'),
    one('', 'still.png', { kind: 'still', coverage: [] }),
    one('100%_done', 'odd_name.#.png'),
  ];
  beforeAll(async () => {
    await put('l', all, 1);
    await store.sources.markVersions('l');
  });
  const names = async (
    filter: Parameters<typeof store.sources.list>[0],
    options?: Parameters<typeof store.sources.list>[1],
  ) => (await store.sources.list({ root: 'l', ...filter }, options)).map(({ name }) => name);

  test('a folder with all below it, and no other that begins alike or differs in case', async () => {
    expect(await names({ folder: 'a' })).toEqual(['cam_2.#.png', 'cam_10.#.png', 'x_24fps.#.png']);
    expect(await names({ folder: 'A' })).toEqual(['upper.#.png']);
    expect(await names({ folder: '100%_done' })).toEqual(['odd_name.#.png']);
    expect(await names({ folder: '100__done' })).toEqual([]);
  });

  test('versions stand together, the newest first, the older marked', async () => {
    expect(await names({ folder: 'ab' })).toEqual(['other.#.png', 'pan_v02.#.png', 'pan_v01.#.png']);
    const older = await store.sources.list({ root: 'l', code: 'older-version' });
    expect(older.map(({ name }) => name)).toEqual(['pan_v01.#.png']);
    expect(await store.sources.markVersions('l')).toBe(0);
    // Without the newer one it is the newest again.
    await store.sources.put('l', [all[4]!], 5);
    expect(await store.sources.markVersions('l')).toBe(1);
  });

  test('every filter, and their sum in the overview', async () => {
    expect(await names({ kind: 'still' })).toEqual(['still.png']);
    expect(await names({ code: 'missing-frames' })).toEqual(['cam_2.#.png']);
    expect(await names({ code: 'missing' })).toEqual([]);
    expect(await names({ rate: '24' })).toEqual(['x_24fps.#.png']);
    expect(await names({ rate: 'none', folder: 'a' })).toEqual(['cam_2.#.png', 'cam_10.#.png']);
    expect(await names({ look: true })).toEqual(['cam_2.#.png']);
    const clip = (sound?: object) =>
      ({ kind: 'clip', facts: { clip: { matrix: {}, range: {}, fields: {}, sound } } }) as unknown as Partial<Source>;
    const heard = [one('', 'bell.wav', { kind: 'sound', coverage: [] }), one('', 'silent.mp4', clip())];
    await put('heard', [...heard, one('', 'ride.mp4', clip({ codec: 'aac' }))], 1);
    expect((await store.sources.list({ root: 'heard', sounds: true })).map(({ name }) => name)).toEqual([
      'bell.wav',
      'ride.mp4',
    ]);
    expect(await names({ hours: 1 })).toEqual(['cam_2.#.png']);
    expect(await names({ text: 'CAM_1' })).toEqual(['cam_10.#.png']);
    expect(await names({ text: '%' })).toEqual(['odd_name.#.png']);
    const overview = await store.sources.overview({ root: 'l', look: true }, 'folder');
    expect(overview).toMatchObject({
      total: 1,
      groups: [{ folder: 'a', count: 1 }],
      facets: { all: 9, look: 1, kinds: { sequence: 8, still: 1 }, codes: { 'missing-frames': 1 }, rates: { 24: 1 } },
    });
    expect(overview.facets.undeclared).toBe(7);
  });

  test('sorted, and a piece at a time: the pieces are the whole, folders in one stretch each', async () => {
    expect((await names({}, { sort: 'bytes', descending: true }))[0]).toBe('x_24fps.#.png');
    expect((await names({}, { sort: 'findings', descending: true }))[0]).toBe('cam_2.#.png');
    const whole = await names({});
    const pieces = [];
    for (let offset = 0; offset < 9; offset += 2) pieces.push(...(await names({}, { offset, limit: 2 })));
    expect(pieces).toEqual(whole);
    const folders = (await store.sources.list({ root: 'l' })).map(({ folder }) => folder);
    const stretches = folders.filter((folder, at) => folder !== folders[at - 1]);
    expect(new Set(stretches).size).toBe(stretches.length);
    const { groups } = await store.sources.overview({ root: 'l' }, 'folder');
    expect(groups.flatMap(({ folder, count }) => Array.from({ length: count }, () => folder))).toEqual(folders);
  });

  test('words of many at once add and clear facts; a rule holds below its folder until a word says otherwise', async () => {
    const ids = await store.sources.ids({ root: 'l', folder: 'a' });
    const rate = (num: number) => ({ num, den: 1 });
    await store.sources.changeWords(ids, { rate: rate(12), alpha: 'straight' }, []);
    await store.sources.changeWords(ids.slice(0, 2), {}, ['rate']);
    await store.sources.putRule('l', { folder: 'a', word: { rate: rate(25) } });
    const told = (await store.sources.list({ root: 'l', folder: 'a' })).map(({ declaration }) => [
      declaration.rate.value?.num,
      declaration.rate.grounds,
      declaration.alpha.value,
    ]);
    expect(told).toEqual([
      [25, 'rule', 'straight'],
      [25, 'rule', 'straight'],
      [12, 'word', 'straight'],
    ]);
    expect(await names({ rate: '25' })).toHaveLength(2);
    await store.sources.putRule('l', { folder: 'a', word: {} });
    expect(await store.sources.rules('l')).toEqual([]);
    expect(await names({ rate: '25' })).toEqual([]);
  });

  test('a finding set aside asks for nothing, until it says something else', async () => {
    const id = sourceId('l', 'a', 'cam_2.#.png');
    await store.sources.putAside(id, fault, 'Cut on purpose.');
    expect((await store.sources.get(id))!.findings).toMatchObject([{ setAside: 'Cut on purpose.' }]);
    expect(await names({ look: true })).toEqual([]);
    await put('l', [{ ...all[1]!, findings: [{ ...fault, sentence: 'Frames 3-4 are missing.' }] }], 6);
    expect(await names({ look: true })).toEqual(['cam_2.#.png']);
    await put('l', [all[1]!], 7);
    expect(await names({ look: true })).toEqual([]);
    await store.sources.putAside(id, fault, null);
    expect(await names({ look: true })).toEqual(['cam_2.#.png']);
  });

  test('a folder that went is dropped with all below it, and nothing beside it', async () => {
    await store.sources.dropBefore('l', 100, { folder: 'a', below: true });
    expect(await names({ folder: 'a' })).toEqual([]);
    expect(await names({ folder: 'ab' })).toHaveLength(3);
    expect(await names({ folder: 'A' })).toHaveLength(1);
  });
});

test('specs are saved by name, in versions', async () => {
  expect(await store.specs.save('plate', spec)).toMatchObject({ name: 'plate', version: 1 });
  const again = await store.specs.save('plate', { ...spec, existing: 'replace' });
  expect(again).toMatchObject({ version: 2, spec: { existing: 'replace' } });
  expect(await store.specs.remove(again.id)).toBe(true);
  expect(await store.specs.remove(again.id)).toBe(false);
});

describe('names', () => {
  test('naming rules are saved by name, in versions', async () => {
    const rules = namingSpecSchema.parse({ version: 1, rules: [{ kind: 'number', digits: 4 }] });
    expect(await store.names.stacks.save('four digits', rules)).toMatchObject({ version: 1, spec: rules });
    const again = await store.names.stacks.save('four digits', { ...rules, join: true });
    expect(again).toMatchObject({ version: 2, spec: { join: true } });
    expect(await store.names.stacks.remove(again.id)).toBe(true);
    expect(await store.names.stacks.list()).toEqual([]);
  });

  test('a shipped receiver can be changed and brought back; an own one stands after them', async () => {
    const archive = shippedReceivers.archive!;
    await store.names.putReceiver('archive', { ...archive, digits: 6 });
    await store.names.putReceiver('own', { ...archive, name: 'Ünï' });
    const listed = await store.names.listReceivers();
    expect(listed.map(({ id }) => id)).toEqual([...Object.keys(shippedReceivers), 'own']);
    expect(listed.find(({ id }) => id === 'archive')).toMatchObject({ changed: true, receiver: { digits: 6 } });
    expect(await store.names.deleteReceiver('archive')).toBe(true);
    expect(await store.names.getReceiver('archive')).toMatchObject({ changed: false, receiver: archive });
    expect(await store.names.deleteReceiver('own')).toBe(true);
    await expect(store.names.getReceiver('own')).rejects.toMatchObject({ code: 'receiver-not-found' });
  });

  test('a rename is kept whole, the newest first', async () => {
    const row = {
      id: 'a1',
      state: 'done' as const,
      mode: 'rename' as const,
      sentence: 'Rename 1 file.',
      files: 1,
      root: 'r',
      into: 'r',
      example: ['ä.png', 'b.png'] as [string, string],
      undoes: null,
      sources: [['x', 'y']] as [string, string][],
      problem: null,
      created: 5,
      finished: '2026-11-25T00:00:00Z',
    };
    await store.names.putRename(row);
    await store.names.putRename({ ...row, id: 'a2', created: 6, undoes: 'a1', example: null });
    await store.names.putRename({ ...row, state: 'undone', problem: { code: 'c', fact: 'f', wayOut: 'w' } });
    expect(await store.names.listRenames()).toEqual([
      { ...row, id: 'a2', created: 6, undoes: 'a1', example: null },
      { ...row, state: 'undone', problem: { code: 'c', fact: 'f', wayOut: 'w' } },
    ]);
  });

  test('what was said of a source, and set aside of it, goes along with its new name', async () => {
    await put('n', sources(3), 1);
    const before = sourceId('n', 'shots', 'ünï_#.png');
    const after = sourceId('n', 'shots', 'neu.####.png');
    await store.sources.putWord(before, { rate: { num: 12, den: 1 } });
    await store.sources.carryOver([
      [before, after],
      [before, before],
    ]);
    const [renamed] = sources(3).map((source) => ({ ...source, name: 'neu.####.png' }));
    await put('n', [renamed!], 2);
    expect(
      (await store.sources.many([after, 'nobody', before])).map(({ id, declaration }) => [
        id,
        declaration.rate.value?.num,
      ]),
    ).toEqual([
      [after, 12],
      [before, 12],
    ]);
  });
});

test('what is kept outlives the database process, and an orphan of it is ended', async () => {
  await store.putScan({ root: 'r', number: 7, files: 1, bytes: 2 ** 40, finished: 'then', notes: [] });
  await store.close();
  await database.stop();
  // Started by a server that is killed: its database runs on, and must go before another is started over the same folder.
  const script = `import { startDatabase } from ${JSON.stringify(new URL('./mariadb.ts', import.meta.url).href)};
    await startDatabase(${JSON.stringify(folder)});
    console.log('up');
    setInterval(() => undefined, 1000);`;
  const killed = spawn(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', script], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise((done) => killed.stdout.once('data', done));
  killed.kill('SIGKILL');
  const orphan = Number(await readFile(join(folder, 'pid'), 'utf8'));
  database = await startDatabase(folder);
  expect(existsSync(`/proc/${orphan}`)).toBe(false);
  store = await Store.open(database);
  expect(await store.listScans()).toEqual([
    { root: 'r', number: 7, files: 1, bytes: 2 ** 40, finished: 'then', notes: [] },
  ]);
});
