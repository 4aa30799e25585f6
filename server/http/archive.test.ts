import { createHash, randomBytes } from 'node:crypto';
import { execFile } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import express from 'express';
import { archiveLength, sendArchive, type Handed, type WrittenFile } from './archive.ts';

// A download that was broken off goes on where it was, and what comes of the pieces is the archive.
let folder: string;
let server: Server;
let url: string;
let handed: Handed;
const run = promisify(execFile);
const at = new Date('2026-05-02T10:00:00.000Z');

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-archive-'));
  const files: WrittenFile[] = [];
  for (const [place, size] of [1, 70_000, 3, 400_001, 65_536].entries()) {
    const bytes = randomBytes(size);
    const name = ['a.png', 'glocke_ö.1001.exr', 'c', 'トラム.tif', 'z z.tif'][place]!;
    const path = join(folder, name);
    await writeFile(path, bytes);
    files.push({ name, path, bytes: size, sha256: createHash('sha256').update(bytes).digest('hex') });
  }
  handed = { name: 'bell', files, at };
  const app = express();
  app.get('/archive', (request, response) => sendArchive(request, response, handed));
  server = app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/archive`;
});
afterAll(async () => {
  server.closeAllConnections();
  server.close();
  await rm(folder, { recursive: true, force: true });
});

const ask = (headers: Record<string, string> = {}, method = 'GET') => fetch(url, { headers, method });
const bytesOf = async (response: Response) => Buffer.from(await response.arrayBuffer());

test('its length is told before, and another program finds every file whole', async () => {
  const response = await ask();
  const bytes = await bytesOf(response);
  expect(response.status).toBe(200);
  expect(Number(response.headers.get('content-length'))).toBe(bytes.length);
  const path = join(folder, 'all.zip');
  await writeFile(path, bytes);
  const listing = `import zipfile,hashlib,sys,json
z=zipfile.ZipFile(sys.argv[1])
assert z.testzip() is None
print(json.dumps({i.filename: hashlib.sha256(z.read(i)).hexdigest() for i in z.infolist()}))`;
  const { stdout } = await run('/usr/bin/python3', ['-c', listing, path]);
  const found = JSON.parse(stdout) as Record<string, string>;
  for (const { name, sha256 } of handed.files) expect(found[`bell/${name}`]).toBe(sha256);
  expect(Object.keys(found)).toHaveLength(handed.files.length + 1);
});

test('pieces of any size, asked for one after another, are the whole', async () => {
  const whole = await bytesOf(await ask());
  const tag = (await ask({}, 'HEAD')).headers.get('etag')!;
  for (const size of [100_000, 333_333]) {
    const pieces: Buffer[] = [];
    for (let from = 0; from < whole.length; from += size) {
      const response = await ask({ range: `bytes=${from}-${from + size - 1}`, 'if-range': tag });
      expect(response.status).toBe(206);
      const last = Math.min(whole.length, from + size) - 1;
      expect(response.headers.get('content-range')).toBe(`bytes ${from}-${last}/${whole.length}`);
      pieces.push(await bytesOf(response));
    }
    expect(Buffer.concat(pieces).equals(whole)).toBe(true);
  }
  const end = await bytesOf(await ask({ range: 'bytes=-22' }));
  expect(end.equals(whole.subarray(-22))).toBe(true);
  const rest = await bytesOf(await ask({ range: 'bytes=500000-' }));
  expect(rest.equals(whole.subarray(500_000))).toBe(true);
});

test('what is no stretch of it is refused, and another archive is sent from its beginning', async () => {
  const whole = await bytesOf(await ask());
  const beyond = await ask({ range: `bytes=${whole.length}-` });
  expect([beyond.status, beyond.headers.get('content-range')]).toEqual([416, `bytes */${whole.length}`]);
  for (const headers of [
    { range: 'bytes=5-9', 'if-range': '"another"' },
    { range: 'bytes=1-2,5-9' },
    { range: 'frames=1-2' },
  ] as Record<string, string>[]) {
    const response = await ask(headers);
    expect([response.status, (await bytesOf(response)).length]).toEqual([200, whole.length]);
  }
});

test('who gives it up leaves no file open, and the next gets it whole', async () => {
  const away = new AbortController();
  const response = await fetch(url, { signal: away.signal });
  away.abort();
  await expect(response.arrayBuffer()).rejects.toThrow();
  expect((await bytesOf(await ask())).length).toBe(Number((await ask({}, 'HEAD')).headers.get('content-length')));
});

test('beyond four GiB its length is that of the large form', () => {
  // A file of 4 GiB and 10 bytes, one of 1, a manifest of 148: as an archive of these was counted to its last byte.
  const entries = [
    { name: 'bell/long.dpx', bytes: 2 ** 32 + 10 },
    { name: 'bell/a.png', bytes: 1 },
    { name: 'bell/manifest.sha256', bytes: 148 },
  ];
  expect(archiveLength(entries) - 2 ** 32).toBe(695);
});
