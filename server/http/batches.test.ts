import { execFile } from 'node:child_process';
import { copyFile, readdir, readFile, rm, stat, unlink, utimes, writeFile } from 'node:fs/promises';
import { promisify } from 'node:util';
import { batchOf, parseSpec, withDifference, type Batch, type Spec } from '@shale/core';
import { routes, type BatchView, type Makes } from '@shale/contract';
import { readStill, usualSettings, writeStill } from '@shale/media';
import { Ground, pictureOf, until } from '../testing/ground.ts';
import { Served } from '../testing/served.ts';

let ground: Ground;
let served: Served;
/** Three sequences, the second with a gap. */
let lines: string[];
const run = promisify(execFile);

const spec = (folder: string, more: object = {}): Spec =>
  parseSpec({
    version: 1,
    write: { format: 'tiff', sample: 'u8', alpha: 'none', transfer: 'srgb' },
    into: { root: 'out', folder },
    ...more,
  });

beforeAll(async () => {
  ground = await Ground.make();
  await ground.put('shots', 'line_01', 'bell', [1, 2, 3, 4]);
  await ground.put('shots', 'line_02', 'bell', [1, 2, 4]);
  await ground.put('shots', 'line_03', 'loop', [7, 8]);
  await ground.roots.scan('shots');
  await ground.roots.scan('out');
  served = await Served.on(ground);
  const of = async (folder: string, name: string) => (await ground.source('shots', folder, name)).id;
  lines = [
    await of('line_01', 'bell.####.png'),
    await of('line_02', 'bell.####.png'),
    await of('line_03', 'loop.####.png'),
  ];
});
afterAll(async () => {
  await served.close();
  await ground.leave();
});

const plan = (
  batch: Batch,
  of: { sources: string[] } | { filter: object } | { selection: string },
  makes: Makes = 'all',
) => served.ask(routes.planBatch, { body: { of, batch, makes } });
const start = (batch: Batch, sources: string[], more: { digest?: string; makes?: Makes } = {}) =>
  served.ask(routes.startBatch, { body: { of: { sources }, batch, ...more } });
const refusal = async (answer: Promise<Response>) => {
  const response = await answer;
  return [response.status, ((await response.json()) as { code: string }).code];
};
const view = (id: string) => served.ask(routes.getBatch, { params: { batch: id } });
async function ended({ id }: BatchView): Promise<BatchView> {
  await until(async () => !['queued', 'running'].includes((await view(id)).state), `batch ${id} ends`);
  return view(id);
}
const filesOf = (...folder: string[]) => readdir(ground.in('out', ...folder)).then((names) => names.sort());

test('many are planned, run, told, receipted and handed over as one', async () => {
  const batch = batchOf(spec('one/{folder}', { names: { first: 1001 } }));
  const planned = await plan(batch, { sources: lines });
  expect(planned.sums).toEqual({ sources: 3, ready: 3, files: 9, videos: 0, frames: 9 });
  expect(planned.parts.map(({ into, frames, missing }) => [into.folder, frames, missing])).toEqual([
    ['one/line_01', 4, ''],
    ['one/line_02', 3, '3'],
    ['one/line_03', 2, ''],
  ]);
  expect(planned.rooms).toEqual([{ root: 'out', free: expect.any(Number) as number }]);
  const begun = await start(batch, lines, { digest: planned.digest });
  expect(begun).toMatchObject({ sources: 3, outputs: 1, jobs: 3, refused: [] });
  expect(begun.sentence).toMatch(
    /^Take 3 sequences as declared; write TIFF, 8-bit .* from 1001, into out\/one\/\{folder\}\.$/,
  );
  const done = await ended(begun);
  expect(done).toMatchObject({ state: 'done', files: { written: 9, failed: 0, total: 9 }, frames: { done: 9, of: 9 } });
  expect(await filesOf('one', 'line_02')).toEqual(['bell.1001.tif', 'bell.1002.tif', 'bell.1004.tif']);
  const { data } = await readStill(ground.in('out', 'one', 'line_03', 'loop.1002.tif'));
  expect([...data]).toEqual([...pictureOf(8).data]);

  // Its jobs are its own: no list tells them one by one.
  expect((await served.ask(routes.listJobs, {})).filter((job) => job.batch === done.id)).toEqual([]);
  const jobs = await served.ask(routes.batchJobs, { params: { batch: done.id } });
  expect(jobs.map(({ source, output }) => [output, source])).toEqual(lines.map((line) => [0, line]));
  expect((await served.ask(routes.listBatches, {}))[0]).toEqual(done);
  expect((await served.ask(routes.listReceipts, {})).filter(({ job }) => jobs.some(({ id }) => id === job))).toEqual(
    [],
  );

  const receipt = await served.ask(routes.batchReceipt, { params: { batch: done.id } });
  expect(
    receipt.parts.map(({ source, written, planned: of, check }) => [source.folder, written, of, check.identical]),
  ).toEqual([
    ['line_01', 4, 4, 4],
    ['line_02', 3, 3, 3],
    ['line_03', 2, 2, 2],
  ]);
  // Everything in one archive, by folders, with its sums, as another program reads it.
  const archive = await served.fetch(routes.batchArchive, { params: { batch: done.id } });
  const path = ground.in('all.zip');
  await writeFile(path, Buffer.from(await archive.arrayBuffer()));
  const listing = `import zipfile,hashlib,sys
z=zipfile.ZipFile(sys.argv[1]); top=z.namelist()[0].split('/')[0]
sums=dict(reversed(l.split('  ',1)) for l in z.read(top+'/manifest.sha256').decode().splitlines())
print(len(sums), all(hashlib.sha256(z.read(top+'/'+n)).hexdigest()==s for n,s in sums.items()), sorted(sums)[0])`;
  expect((await run('/usr/bin/python3', ['-c', listing, path])).stdout.trim()).toBe('9 True one/line_01/bell.1001.tif');
  const sums = await served.fetch(routes.batchManifest, { params: { batch: done.id } });
  expect((await sums.text()).trim().split('\n')).toHaveLength(9);
});

test('one source can differ; several outputs come of one press', async () => {
  const outputs = [
    spec('two/{folder}'),
    spec('two/{folder}/half', { picture: { resize: { to: { by: 'percent', percent: 50 } } } }),
  ];
  const batch = withDifference(batchOf(...outputs), lines[0]!, 0, { ...outputs[0]!, frames: '2-3' });
  const planned = await plan(batch, { sources: lines.slice(0, 2) });
  expect(planned.parts.map(({ output, frames, differs }) => [output, frames, differs])).toEqual([
    [0, 2, true],
    [1, 4, false],
    [0, 3, false],
    [1, 3, false],
  ]);
  const done = await ended(await start(batch, lines.slice(0, 2)));
  expect(done).toMatchObject({ state: 'done', sources: 2, outputs: 2, jobs: 4, files: { written: 12 } });
  expect(await filesOf('two', 'line_01')).toEqual(['bell.0002.tif', 'bell.0003.tif', 'half']);
  expect(await readStill(ground.in('out', 'two', 'line_02', 'half', 'bell.0004.tif'))).toMatchObject({
    width: 2,
    height: 1,
  });
});

describe('only what is new', () => {
  const batch = batchOf(spec('new/{folder}'));
  const timeOf = async (folder: string, name: string) => (await stat(ground.in('out', 'new', folder, name))).mtimeMs;

  test('a second identical day makes nothing; what came, changed or is gone is told, made, left', async () => {
    await ended(await start(batch, lines));
    await expect(
      refusal(served.fetch(routes.startBatch, { body: { of: { sources: lines }, batch, makes: 'new' } })),
    ).resolves.toEqual([409, 'nothing-to-run']);
    // A frame comes, one changes, one goes, one is copied anew with another time.
    await ground.put('shots', 'line_01', 'bell', [5]);
    await unlink(ground.in('shots', 'line_01', 'bell.0002.png'));
    await writeStill(ground.in('shots', 'line_01', 'bell.0002.png'), 'png', pictureOf(90), usualSettings);
    await unlink(ground.in('shots', 'line_02', 'bell.0004.png'));
    await copyFile(ground.in('shots', 'line_02', 'bell.0001.png'), ground.in('copy.png'));
    await copyFile(ground.in('copy.png'), ground.in('shots', 'line_02', 'bell.0001.png'));
    const hourAgo = new Date(Date.now() - 3_000_000);
    for (const path of ['line_01/bell.0002.png', 'line_02/bell.0001.png'])
      await utimes(ground.in('shots', path), hourAgo, hourAgo);
    await ground.roots.scan('shots');
    const before = await timeOf('line_01', 'bell.0001.tif');
    const changed = await timeOf('line_01', 'bell.0002.tif');
    const planned = await plan(batch, { sources: lines }, 'new');
    expect(planned.parts.map(({ taken, kept, leftOver, problems }) => [taken, kept, leftOver, problems])).toEqual([
      [4, 3, '', []],
      [2, 2, '4', []],
      [2, 2, '', []],
    ]);
    const done = await ended(await start(batch, lines, { makes: 'new', digest: planned.digest }));
    expect(done).toMatchObject({ state: 'done', jobs: 1, files: { written: 5, total: 5 } });
    expect(await timeOf('line_01', 'bell.0001.tif')).toBe(before);
    expect(await timeOf('line_01', 'bell.0002.tif')).not.toBe(changed);
    expect([...(await readStill(ground.in('out', 'new', 'line_01', 'bell.0002.tif'))).data]).toEqual([
      ...pictureOf(90).data,
    ]);
    expect(await filesOf('new', 'line_02')).toContain('bell.0004.tif');
    const receipt = await served.ask(routes.batchReceipt, { params: { batch: done.id } });
    expect(receipt.parts.map(({ written, kept }) => [written, kept])).toEqual([[5, 3]]);
  });

  test('another spec keeps nothing, and files that Shale did not write are never replaced', async () => {
    const other = batchOf(spec('new/{folder}', { picture: { flip: 'across' } }));
    expect((await plan(other, { sources: lines.slice(2) }, 'new')).parts[0]).toMatchObject({
      taken: 2,
      kept: 0,
      problems: [{ code: 'output-exists' }],
    });
    const path = ground.in('out', 'new', 'line_03', 'loop.0007.tif');
    await writeFile(path, 'mine');
    expect((await plan(batch, { sources: lines.slice(2) }, 'new')).parts[0]).toMatchObject({
      kept: 1,
      problems: [{ code: 'output-exists', fact: expect.stringContaining('loop.0007.tif') as string }],
    });
    expect(await readFile(path, 'utf8')).toBe('mine');
    // A result that is gone is made again.
    await rm(path);
    const done = await ended(await start(batch, lines.slice(2), { makes: 'new' }));
    expect(done.files).toEqual({ written: 2, failed: 0, total: 2 });
    expect([...(await readStill(path)).data]).toEqual([...pictureOf(7).data]);
  });
});

test('sources that may not run wait, with what they need; the others run', async () => {
  const same = batchOf(spec('three'));
  const planned = await plan(same, { sources: lines });
  expect(planned.parts.map(({ problems }) => problems.map(({ code }) => code))).toEqual([
    ['same-names'],
    ['same-names'],
    [],
  ]);
  expect(planned.sums).toMatchObject({ sources: 3, ready: 1, files: 2 });
  const done = await ended(await start(same, lines, { digest: planned.digest }));
  expect([done.sources, await filesOf('three')]).toEqual([1, ['loop.0007.tif', 'loop.0008.tif']]);
  // All of it is there now.
  expect(await refusal(served.fetch(routes.startBatch, { body: { of: { sources: lines }, batch: same } }))).toEqual([
    409,
    'nothing-to-run',
  ]);
});

test('a plan that is not the shown one is refused; of two batches that want the same names one waits for nothing', async () => {
  const batch = batchOf(spec('four/{folder}'));
  const body = { of: { sources: lines }, batch };
  expect(await refusal(served.fetch(routes.startBatch, { body: { ...body, digest: 'other' } }))).toEqual([
    409,
    'plan-changed',
  ]);
  const both = await Promise.all([1, 2].map(() => served.fetch(routes.startBatch, { body })));
  const statuses = both.map(({ status }) => status).sort();
  expect(statuses).toEqual([201, 409]);
  const [begun] = await served.ask(routes.listBatches, {});
  expect((await ended(begun!)).files.failed).toBe(0);
  expect(await filesOf('four', 'line_03')).toEqual(['loop.0007.tif', 'loop.0008.tif']);
});

test('a batch is stopped, goes on, and is cancelled as one', async () => {
  await ground.put(
    'shots',
    'long',
    'a',
    Array.from({ length: 150 }, (_, at) => at + 1),
  );
  await ground.put(
    'shots',
    'long',
    'b',
    Array.from({ length: 150 }, (_, at) => at + 1),
  );
  await ground.roots.scan('shots');
  const sources = [
    (await ground.source('shots', 'long', 'a.####.png')).id,
    (await ground.source('shots', 'long', 'b.####.png')).id,
  ];
  const begun = await start(batchOf(spec('five/{stem}')), sources);
  const params = { batch: begun.id };
  expect(await served.ask(routes.orderBatch, { params, body: { priority: 'last' } })).toMatchObject({
    priority: 'last',
  });
  const stopped = await served.ask(routes.stopBatch, { params });
  expect(stopped.state).toBe('stopped');
  await served.ask(routes.continueBatch, { params, body: {} });
  const done = await ended(begun);
  expect(done).toMatchObject({ state: 'done', files: { written: 300, failed: 0 } });
  expect(await refusal(served.fetch(routes.continueBatch, { params, body: {} }))).toEqual([409, 'not-stopped']);
  const second = await start(batchOf(spec('six/{stem}')), sources);
  expect((await served.ask(routes.cancelBatch, { params: { batch: second.id } })).state).toBe('cancelled');
  // Told as it was, also by a server that has forgotten it.
  const told = ground.told.flatMap((event) =>
    event.type === 'batch' && event.batch.id === done.id ? [event.batch.state] : [],
  );
  expect(told).toContain('running');
});

test('a source that fails takes the others along nowhere', async () => {
  await ground.put('shots', 'bad', 'hurt', [1, 2, 3]);
  await writeFile(
    ground.in('shots', 'bad', 'hurt.0002.png'),
    (await readFile(ground.in('shots', 'bad', 'hurt.0001.png'))).subarray(0, 60),
  );
  await ground.roots.scan('shots');
  const hurt = (await ground.source('shots', 'bad', 'hurt.####.png')).id;
  const done = await ended(await start(batchOf(spec('seven/{folder}')), [hurt, lines[0]!]));
  expect(done).toMatchObject({
    state: 'incomplete',
    files: { written: 7, failed: 1, total: 8 },
    states: { incomplete: 1, done: 1 },
  });
});

test('sources are meant by a list, a filter or a list that was kept; what is gone is told', async () => {
  const batch = batchOf(spec('eight/{folder}'));
  const kept = await served.ask(routes.keepSelection, { body: { sources: lines } });
  expect(await served.ask(routes.keepSelection, { body: { sources: lines } })).toEqual(kept);
  expect((await served.ask(routes.getSelection, { params: { selection: kept.id } })).sources).toEqual(lines);
  expect((await plan(batch, { selection: kept.id })).sums.sources).toBe(3);
  expect(
    (await plan(batch, { filter: { root: 'shots', folder: 'line_02' } })).parts.map(({ source }) => source),
  ).toEqual([lines[1]]);
  expect((await plan(batch, { sources: [lines[0]!, 'gone', lines[0]!] })).gone).toEqual(['gone']);
  const body = (of: object) => ({ body: { of, batch } }) as never;
  expect(await refusal(served.fetch(routes.planBatch, body({ filter: { root: 'shots', text: 'nobody' } })))).toEqual([
    400,
    'nothing-selected',
  ]);
  expect(await refusal(served.fetch(routes.planBatch, body({ selection: 'nothing' })))).toEqual([
    404,
    'selection-not-found',
  ]);
  expect(await refusal(served.fetch(routes.planBatch, body({ sources: [] })))).toEqual([400, 'bad-request']);
  const some = await served.ask(routes.sourcesOf, { body: { sources: [lines[2]!, 'gone', lines[0]!] } });
  expect(some.map(({ id }) => id)).toEqual([lines[2], lines[0]]);
});

test('what a batch comes to is measured of a few results of each kind', async () => {
  const outputs = [
    spec('nine/{folder}'),
    spec('nine/{folder}/deep', { write: { format: 'tiff', sample: 'u16', alpha: 'none', transfer: 'srgb' } }),
  ];
  const measured = await served.ask(routes.measureBatch, {
    body: { of: { sources: lines }, batch: batchOf(...outputs) },
  });
  expect(measured.parts).toHaveLength(6);
  const bytes = (output: number) =>
    measured.parts.filter((part) => part.output === output).reduce((sum, part) => sum + part.bytes, 0);
  expect(bytes(1)).toBeGreaterThan(bytes(0));
  expect(measured.bytes).toBe(Math.round(bytes(0) + bytes(1)));
  expect(measured.seconds).toBeGreaterThan(0);
});
