import { readdir, readFile, rename, rm, stat, symlink, writeFile } from 'node:fs/promises';
import { parseSpec, type Spec } from '@shale/core';
import { routes, type Decision, type StandingView } from '@shale/contract';
import { readStill } from '@shale/media';
import { Ground, pictureOf, until } from '../testing/ground.ts';
import { Served } from '../testing/served.ts';

let ground: Ground;
let served: Served;

const spec = (folder: string, more: object = {}): Spec =>
  parseSpec({
    version: 1,
    write: { format: 'tiff', sample: 'u8', alpha: 'none', transfer: 'srgb' },
    into: { root: 'out', folder },
    ...more,
  });
const orderOf = (folder: string, more: object = {}) => ({
  ...{ version: 1 as const, name: `Order of ${folder}`, root: 'shots', folder, fits: {} },
  outputs: [spec(`${folder}/{folder}`)],
  ...more,
});

beforeAll(async () => {
  ground = await Ground.make();
  served = await Served.on(ground);
});
afterAll(async () => {
  await served.close();
  await ground.leave();
});

const set = (order: object, earlier: 'make' | 'leave' = 'make') =>
  served.ask(routes.setStanding, { body: { order: order as never, earlier } });
const refusal = async (order: object) => {
  const answer = await served.fetch(routes.setStanding, { body: { order: order as never } });
  return [answer.status, ((await answer.json()) as { code: string }).code];
};
const logOf = ({ id }: StandingView): Promise<Decision[]> =>
  served.ask(routes.standingLog, { params: { standing: id }, query: {} });
const wordsOf = async (order: StandingView) =>
  (await logOf(order)).map(({ source, words }) => `${source ? `${source.folder} ` : ''}${words}`);
const says = (order: StandingView, words: string) =>
  until(async () => (await wordsOf(order)).includes(words), `"${words}" is decided`);
const scan = () => ground.roots.scan('shots');
const end = ({ id }: StandingView) => served.ask(routes.removeStanding, { params: { standing: id } });
const files = (...folder: string[]) => readdir(ground.in('out', ...folder)).then((names) => names.sort());

test('what comes is made once it is whole; what is added later is made alone; all of it is in the log', async () => {
  await ground.put('shots', 'day/a', 'bell', [1, 2]);
  await scan();
  const order = await set(orderOf('day'));
  expect(order.sentence).toMatch(/^Take each source as declared; write TIFF/);
  await says(order, 'ended: 2 files written');
  expect(await files('day', 'a')).toEqual(['bell.0001.tif', 'bell.0002.tif']);
  const { data } = await readStill(ground.in('out', 'day', 'a', 'bell.0002.tif'));
  expect(data).toEqual(pictureOf(2).data);
  const { mtimeMs } = await stat(ground.in('out', 'day', 'a', 'bell.0001.tif'));
  // A gap is waited with; then the frames that came are made, and nothing else.
  await ground.put('shots', 'day/a', 'bell', [4]);
  await scan();
  await says(order, 'day/a waits: frame 3 is missing');
  await ground.put('shots', 'day/a', 'bell', [3]);
  await scan();
  await says(order, 'day/a begins: 2 of 4 files');
  await until(async () => (await files('day', 'a')).length === 4, 'the rest is made');
  expect((await stat(ground.in('out', 'day', 'a', 'bell.0001.tif'))).mtimeMs).toBe(mtimeMs);
  const [batch] = await served.ask(routes.listBatches, { query: {} });
  expect(batch).toMatchObject({ standing: order.id, jobs: 1 });
  await until(
    async () => (await served.ask(routes.batchReceipt, { params: { batch: batch!.id } })).parts.length === 1,
    'its receipt',
  );
  const [view] = await served.ask(routes.listStanding, {});
  expect(view).toMatchObject({ id: order.id, counts: { begins: 1, waits: 0, left: 0, there: 0 }, batch: batch!.id });
  expect(view!.looked).not.toBeNull();
  await end(order);
  expect(await files('day', 'a')).toHaveLength(4);
});

test('it is tried without running, paused, changed, and what was there may be left', async () => {
  await ground.put('shots', 'try/a', 'bell', [1, 2]);
  await ground.put('shots', 'try/b', 'bell', [1, 3]);
  await scan();
  const order = orderOf('try');
  const tried = await served.ask(routes.tryStanding, { body: { order: order } });
  expect(tried.decisions.map(({ source, words, files: made }) => [source!.folder, words, made])).toEqual([
    ['try/b', 'waits: frame 2 is missing', 0],
    ['try/a', 'begins: 2 files', 2],
  ]);
  expect(tried.counts).toEqual({ begins: 1, waits: 1, left: 0, there: 0 });
  expect(await served.ask(routes.listStanding, {})).toEqual([]);
  const standing = await set(order, 'leave');
  await until(async () => (await served.ask(routes.listStanding, {}))[0]!.looked !== null, 'it was looked');
  expect(await wordsOf(standing)).toEqual(['set']);
  await served.ask(routes.pauseStanding, { params: { standing: standing.id }, body: { paused: true } });
  await ground.put('shots', 'try/c', 'bell', [1]);
  await scan();
  await new Promise((done) => setTimeout(done, 2500));
  expect(await wordsOf(standing)).toEqual(['paused', 'set']);
  await served.ask(routes.pauseStanding, { params: { standing: standing.id }, body: { paused: false } });
  await says(standing, 'ended: 1 file written');
  // Those that were there stay left though the order changes; another edition is refused.
  const wider = { order: { ...order, fits: { gaps: 'take' } } as never, edition: 1 };
  const changed = await served.ask(routes.changeStanding, { params: { standing: standing.id }, body: wider });
  expect(changed.edition).toBe(2);
  const again = await served.fetch(routes.changeStanding, { params: { standing: standing.id }, body: wider });
  expect([again.status, ((await again.json()) as { code: string }).code]).toEqual([409, 'standing-changed']);
  await says(standing, 'try/c exists: all of it is made already');
  expect(await files('try')).toEqual(['c']);
  await end(standing);
});

test('what cannot be made is left with its reason; of two outputs both are made', async () => {
  await ground.put('shots', 'left/a', 'bell', [1]);
  await ground.put('shots', 'left/b', 'bell', [1]);
  await scan();
  await ground.put('out', 'left/a', 'bell', []);
  await writeFile(ground.in('out', 'left', 'a', 'bell.0001.tif'), 'of somebody else');
  const small = spec('left_small/{folder}', { names: { stem: 'small' } });
  const order = await set({ ...orderOf('left'), outputs: [spec('left/{folder}'), small] });
  await says(order, 'left/b begins: 2 files');
  expect((await wordsOf(order)).find((words) => words.startsWith('left/a '))).toMatch(
    /^left\/a left: .*bell\.0001\.tif/,
  );
  await until(async () => (await files('left_small', 'b')).length === 1, 'the second output is made');
  expect(await readFile(ground.in('out', 'left', 'a', 'bell.0001.tif'), 'utf8')).toBe('of somebody else');
  await end(order);
});

test('an order that would be given its own results, or cannot be, is refused', async () => {
  expect(await refusal({ ...orderOf('x'), root: 'out', folder: '' })).toEqual([409, 'feeds-itself']);
  expect(await refusal({ ...orderOf('x'), root: 'nowhere' })).toEqual([404, 'root-not-found']);
  expect(await refusal({ ...orderOf('x'), folder: '../more' })).toEqual([403, 'outside-root']);
  const readOnly = spec('x', { into: { root: 'more', folder: 'x' } });
  expect(await refusal({ ...orderOf('x'), outputs: [readOnly] })).toEqual([403, 'root-read-only']);
  // A link leads to the same folder by another way.
  await symlink(ground.in('out'), ground.in('shots', 'link'));
  expect((await refusal({ ...orderOf('x'), folder: 'link' }))[0]).toBeGreaterThanOrEqual(400);
  await rm(ground.in('shots', 'link'));
  const back = {
    ...orderOf('back'),
    root: 'out',
    folder: 'ring',
    outputs: [spec('ring2', { into: { root: 'shots', folder: 'ring' } })],
  };
  const there = await set({ ...orderOf('ring'), outputs: [spec('ring')] });
  expect(await refusal(back)).toEqual([409, 'feeds-itself']);
  expect(await refusal({ ...orderOf('other'), name: there.order.name })).toEqual([409, 'taken']);
  await end(there);
  const gone = await served.fetch(routes.standingLog, { params: { standing: there.id }, query: {} });
  expect(gone.status).toBe(404);
});

test('a folder that goes away is told, and gone on with when it is back', async () => {
  await ground.put('shots', 'away/a', 'bell', [1]);
  await scan();
  const order = await set(orderOf('away'));
  await says(order, 'ended: 1 file written');
  await rename(ground.in('shots', 'away'), ground.in('more', 'away'));
  await scan();
  await until(async () => {
    const [view] = await served.ask(routes.listStanding, {});
    return Object.values(view!.counts).every((count) => count === 0);
  }, 'nothing is there');
  await rename(ground.in('more', 'away'), ground.in('shots', 'away'));
  await ground.put('shots', 'away/b', 'bell', [1]);
  await scan();
  await until(async () => (await files('away')).length === 2, 'what came meanwhile is made');
  await end(order);
});

test('a server that starts again knows what it decided, and begins nothing twice', async () => {
  await ground.put('shots', 'again/a', 'bell', [1]);
  await scan();
  const order = await set(orderOf('again'));
  await says(order, 'ended: 1 file written');
  const before = await wordsOf(order);
  const count = (await served.ask(routes.listBatches, { query: {} })).length;
  await served.close();
  served = await Served.on(ground);
  await until(async () => {
    const [view] = await served.ask(routes.listStanding, {});
    return view!.counts.begins === 1 && view!.looked !== null;
  }, 'it is known again');
  await scan();
  await new Promise((done) => setTimeout(done, 2500));
  expect(await wordsOf(order)).toEqual(before);
  expect((await served.ask(routes.listBatches, { query: {} })).length).toBe(count);
  await end(order);
});
