import { readFile, readdir, stat, writeFile } from 'node:fs/promises';
import { createConnection } from 'node:net';
import { problemDetailsSchema, routes, type OfferedFile } from '@shale/contract';
import { Ground, until } from '../testing/ground.ts';
import { Served } from '../testing/served.ts';

// By the open protocol itself (tus 1.0.0), not by the page's client for it.
let ground: Ground;
let served: Served;
beforeAll(async () => {
  ground = await Ground.make();
  await ground.roots.scan('more');
  served = await Served.on(ground);
});
afterAll(async () => {
  await served.close();
  await ground.leave();
});

const hourAgo = Date.now() - 3_600_000;
const offered = (path: string, size: number): OfferedFile => ({ path, size, modified: hourAgo });
const announce = (name: string, files: OfferedFile[]) => served.ask(routes.bringIn, { body: { name, files } });
const bytesOf = (length: number) => Buffer.from(Array.from({ length }, (_, at) => (at * 37) & 255));
const tus = { 'tus-resumable': '1.0.0' };

/** Opens an upload of a place of an arrival. */
function create(arrival: string, index: string | number, size: number): Promise<Response> {
  const encoded = (text: unknown) => Buffer.from(String(text)).toString('base64');
  return fetch(`${served.url}/api/intake/upload`, {
    method: 'POST',
    headers: {
      ...tus,
      'upload-length': String(size),
      'upload-metadata': `arrival ${encoded(arrival)},index ${encoded(index)}`,
    },
  });
}
const locationOf = (created: Response) => new URL(created.headers.get('location')!, served.url);
const send = (to: URL, offset: number, body: Uint8Array<ArrayBuffer>) =>
  fetch(to, {
    method: 'PATCH',
    headers: { ...tus, 'upload-offset': String(offset), 'content-type': 'application/offset+octet-stream' },
    body,
  });
const offsetOf = async (at: URL) =>
  Number((await fetch(at, { method: 'HEAD', headers: tus })).headers.get('upload-offset'));
const problemOf = async (answer: Response) => problemDetailsSchema.parse(await answer.json());

test('a file comes in pieces, has its name only when it is whole, and its time; the same drop again has it', async () => {
  const file = offered('yard/bell.0001.raw', 1000);
  const arrival = await announce('bells', [file]);
  expect(arrival).toMatchObject({ folder: 'bells', bytes: 1000, have: [] });
  const at = locationOf(await create(arrival.id, 0, 1000));
  const bytes = bytesOf(1000);
  expect((await send(at, 0, bytes.subarray(0, 400))).status).toBe(204);
  expect(await offsetOf(at)).toBe(400);
  const final = ground.in('more', 'bells', 'yard', 'bell.0001.raw');
  await expect(stat(final)).rejects.toMatchObject({ code: 'ENOENT' });
  // A piece for another place than the next is refused, and changes nothing.
  expect((await send(at, 700, bytes.subarray(700))).status).toBe(409);
  expect(await offsetOf(at)).toBe(400);
  expect((await send(at, 400, bytes.subarray(400))).status).toBe(204);
  expect((await readFile(final)).equals(bytes)).toBe(true);
  expect(Math.round((await stat(final)).mtimeMs)).toBe(hourAgo);
  expect(await readdir(ground.in('uploads'))).toEqual([]);
  expect(await announce('bells', [file])).toMatchObject({ id: arrival.id, have: [0] });
});

test('a connection that is lost in the middle leaves what had come, and the rest follows', async () => {
  const arrival = await announce('lost', [offered('a.raw', 200_000)]);
  const at = locationOf(await create(arrival.id, 0, 200_000));
  const bytes = bytesOf(200_000);
  const { hostname, port } = new URL(served.url);
  const socket = createConnection(Number(port), hostname);
  const head = [
    `PATCH ${at.pathname} HTTP/1.1`,
    `host: ${hostname}:${port}`,
    'tus-resumable: 1.0.0',
    'upload-offset: 0',
    'content-type: application/offset+octet-stream',
    'content-length: 200000',
  ];
  socket.write(`${head.join('\r\n')}\r\n\r\n`);
  socket.write(bytes.subarray(0, 120_000));
  const kept = async () => (await stat(ground.in('uploads', at.pathname.split('/').pop()!))).size;
  await until(async () => (await kept()) > 0, 'some of it has come');
  socket.destroy();
  let has = 0;
  await until(async () => {
    const before = has;
    has = await offsetOf(at);
    return has > 0 && has === before;
  }, 'what came is settled');
  expect(has).toBeLessThanOrEqual(120_000);
  expect((await send(at, has, bytes.subarray(has))).status).toBe(204);
  expect((await readFile(ground.in('more', 'lost', 'a.raw'))).equals(bytes)).toBe(true);
});

test('what was not announced is refused: another arrival, another place, another size', async () => {
  const arrival = await announce('refused', [offered('a.raw', 10), offered('b.raw', 20)]);
  for (const [id, index, size, code] of [
    ['nobody', 0, 10, 'arrival-not-found'],
    [arrival.id, 2, 10, 'arrival-not-found'],
    [arrival.id, '0x0', 10, 'arrival-not-found'],
    [arrival.id, '', 10, 'arrival-not-found'],
    [arrival.id, 1, 10, 'source-changed'],
  ] as const) {
    const answer = await create(id, index, size);
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(await problemOf(answer)).toMatchObject({ code, status: answer.status });
  }
  expect(await readdir(ground.in('uploads'))).toEqual([]);
});

test('no name leads out of the folder, and none is another’s', async () => {
  for (const path of ['../a.raw', '/etc/a.raw', 'a/../../b.raw', 'a\0.raw', 'a//b.raw', './a.raw']) {
    const answer = await served.fetch(routes.bringIn, { body: { name: 'out', files: [offered(path, 1)] } });
    expect((await problemOf(answer)).status).toBeGreaterThanOrEqual(400);
  }
  const twice = await served.fetch(routes.bringIn, {
    body: { name: 'out', files: [offered('a.raw', 1), offered('a.raw', 1)] },
  });
  expect(twice.status).toBeGreaterThanOrEqual(400);
  // Another drop of the same name gets a folder of its own.
  const [one, two] = [await announce('tram', [offered('a', 1)]), await announce('tram', [offered('b', 1)])];
  expect([one.folder, two.folder]).toEqual(['tram', 'tram-2']);
});

test('a name that has been taken meanwhile keeps its bytes, and the upload says so', async () => {
  const arrival = await announce('taken', [offered('a.raw', 10)]);
  const at = locationOf(await create(arrival.id, 0, 10));
  await writeFile(ground.in('more', 'taken', 'a.raw'), 'mine');
  const answer = await send(at, 0, bytesOf(10));
  expect(answer.status).toBeGreaterThanOrEqual(400);
  expect(await readFile(ground.in('more', 'taken', 'a.raw'), 'utf8')).toBe('mine');
});

test('an empty file is there without an upload; a drop that no disk holds is refused before it begins', async () => {
  const arrival = await announce('empty', [offered('none.txt', 0), offered('some.raw', 3)]);
  expect(arrival.have).toEqual([0]);
  expect((await stat(ground.in('more', 'empty', 'none.txt'))).size).toBe(0);
  const answer = await served.fetch(routes.bringIn, {
    body: { name: 'huge', files: [offered('huge.raw', 2 ** 52)] },
  });
  expect(await problemOf(answer)).toMatchObject({ code: 'disk-full', status: 507 });
});

test('what has come in is scanned without being asked for', async () => {
  const arrival = await announce('seen', [offered('note.txt', 4)]);
  await send(locationOf(await create(arrival.id, 0, 4)), 0, Buffer.from('note'));
  await until(() => ground.told.some((event) => event.type === 'root' && event.root.id === 'more'), 'it is looked at');
});
