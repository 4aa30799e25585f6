/** @jest-environment ./web/testing/page.mjs */
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { jest } from '@jest/globals';
import type { Arrival, OfferedFile } from '@shale/contract';
import { uploader, type Dropped, type UploadState } from './uploader.ts';

declare const visit: (url: string) => void;

/** A server of the open upload protocol (tus 1.0.0) that keeps what comes in its memory, and fails as a test says. */
class Taker {
  readonly uploads = new Map<string, { index: number; length: number; bytes: Buffer }>();
  /** Requests, as `POST /api/intake/upload`. */
  readonly asked: string[] = [];
  /** What is to go wrong with a request: true where it was answered here. */
  fault: (request: IncomingMessage, response: ServerResponse) => boolean = () => false;
  private readonly server: Server = createServer((request, response) => void this.answer(request, response));

  async open(): Promise<void> {
    await new Promise<void>((done) => this.server.listen(0, '127.0.0.1', done));
    visit(`http://127.0.0.1:${(this.server.address() as AddressInfo).port}/`);
  }

  close(): Promise<unknown> {
    this.server.closeAllConnections();
    return new Promise((done) => this.server.close(done));
  }

  /** What has come of each place of the arrival, whole. */
  whole(): Record<number, string> {
    const done = [...this.uploads.values()].filter(({ length, bytes }) => bytes.length === length);
    return Object.fromEntries(done.map(({ index, bytes }) => [index, bytes.toString()]));
  }

  private async answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    response.setHeader('tus-resumable', '1.0.0');
    // The page of a test is at another address than this server, and may ask it all the same.
    response.setHeader('access-control-allow-origin', '*');
    response.setHeader('access-control-allow-methods', 'POST, PATCH, HEAD');
    response.setHeader('access-control-allow-headers', request.headers['access-control-request-headers'] ?? '');
    response.setHeader('access-control-expose-headers', 'location, upload-offset, upload-length');
    if (request.method === 'OPTIONS') return void response.writeHead(204).end();
    this.asked.push(`${request.method} ${request.url}`);
    if (this.fault(request, response)) return;
    const { headers, method, url } = request;
    if (method === 'POST') {
      const [, index] = /index (\S+)/.exec(headers['upload-metadata'] as string)!;
      const id = String(this.uploads.size);
      const length = Number(headers['upload-length']);
      this.uploads.set(id, { index: Number(Buffer.from(index!, 'base64')), length, bytes: Buffer.alloc(0) });
      await this.take(id, request);
      response.setHeader('location', `/api/intake/upload/${id}`);
      response.setHeader('upload-offset', this.uploads.get(id)!.bytes.length);
      response.writeHead(201).end();
      return;
    }
    const id = url!.split('/').pop()!;
    const upload = this.uploads.get(id);
    if (!upload) return void response.writeHead(404).end();
    if (method === 'PATCH') await this.take(id, request);
    response.setHeader('upload-offset', upload.bytes.length);
    response.setHeader('upload-length', upload.length);
    response.writeHead(method === 'HEAD' ? 200 : 204).end();
  }

  private async take(id: string, request: IncomingMessage): Promise<void> {
    const upload = this.uploads.get(id)!;
    for await (const piece of request) upload.bytes = Buffer.concat([upload.bytes, piece as Buffer]);
  }
}

const taker = new Taker();
beforeAll(() => taker.open());
afterAll(() => taker.close());
const seen: UploadState[] = [];
let leave: () => void;
beforeEach(() => {
  // The page of tests logs each request that fails; failing them is what is tested here.
  jest.spyOn(console, 'error').mockImplementation(() => undefined);
  taker.uploads.clear();
  taker.asked.splice(0);
  taker.fault = () => false;
  seen.splice(0);
  localStorage.clear();
  leave = uploader.subscribe(() => void seen.push(uploader.read()));
});
afterEach(() => {
  leave();
  uploader.dismiss();
});

const dropped = (...texts: string[]): Dropped[] =>
  texts.map((text, at) => ({ path: `a/${at}.raw`, file: new File([text], `${at}.raw`, { lastModified: 1000 + at }) }));
const announced: OfferedFile[][] = [];
const announce =
  (have: number[] = []) =>
  (_name: string, files: OfferedFile[]): Promise<Arrival> => {
    announced.push(files);
    const bytes = files.reduce((sum, { size }) => sum + size, 0);
    return Promise.resolve({ id: 'arrival', folder: 'yard', files: files.length, bytes, have });
  };
const refuse = (response: ServerResponse, status: number, body: object) =>
  response.writeHead(status, { 'content-type': 'application/problem+json' }).end(JSON.stringify(body));
async function until(isSo: () => boolean): Promise<void> {
  for (const began = Date.now(); !isSo(); await new Promise((done) => setTimeout(done, 10)))
    if (Date.now() - began > 10_000) throw new Error(`it stays ${JSON.stringify(uploader.read())}`);
}

test('all files of a drop arrive, counted in files and bytes that never go over the whole', async () => {
  const texts = Array.from({ length: 23 }, (_, at) => `file ${at} `.repeat(at + 1));
  await uploader.bring('yard', dropped(...texts), announce());
  expect(uploader.read()).toMatchObject({ phase: 'done', folder: 'yard', files: 23, arrived: 23, before: 0 });
  expect(uploader.read().sent).toBe(uploader.read().bytes);
  expect(taker.whole()).toEqual(Object.fromEntries(texts.map((text, at) => [at, text])));
  expect(seen[0]).toMatchObject({ phase: 'announcing', files: 23 });
  expect(seen.every(({ sent, bytes, phase }) => phase === 'announcing' || sent <= bytes)).toBe(true);
  expect(announced.at(-1)![2]).toEqual({ path: 'a/2.raw', size: texts[2]!.length, modified: 1002 });
});

test('what is there already is not sent, and counts', async () => {
  await uploader.bring('yard', dropped('one', 'two', 'three'), announce([0, 2]));
  expect(taker.whole()).toEqual({ 1: 'two' });
  expect(uploader.read()).toMatchObject({ phase: 'done', arrived: 3, before: 2, sent: 11, bytes: 11 });
});

test('a refusal is told in the server’s words, ends the rest, and is not asked for again', async () => {
  const full = { code: 'disk-full', fact: 'The disk is full.', wayOut: 'Free some space.', status: 507 };
  taker.fault = (request, response) => {
    request.resume();
    if (request.method !== 'POST') return false;
    refuse(response, 507, full);
    return true;
  };
  await uploader.bring('yard', dropped(...Array.from({ length: 12 }, () => 'text')), announce());
  expect(uploader.read()).toMatchObject({ phase: 'failed', problem: { code: 'disk-full', fact: 'The disk is full.' } });
  expect(taker.asked.length).toBeLessThanOrEqual(4);
  // There is room again: what was dropped last goes on.
  taker.fault = () => false;
  uploader.again(announce());
  await until(() => uploader.read().phase === 'done');
  expect(Object.keys(taker.whole())).toHaveLength(12);
});

test('hidden files are left out and counted; of nothing else nothing is sent', async () => {
  const file = (path: string) => ({ path, file: new File(['x'], path, { lastModified: 1 }) });
  await uploader.bring('yard', [file('a.raw'), file('._a.raw'), file('.git/b.raw')], announce());
  expect(uploader.read()).toMatchObject({ phase: 'done', files: 1, arrived: 1, hidden: 2 });
  expect(announced.at(-1)!.map(({ path }) => path)).toEqual(['a.raw']);
  taker.asked.splice(0);
  await uploader.bring('yard', [file('.git/b.raw')], announce());
  expect(uploader.read()).toMatchObject({ phase: 'failed', problem: { code: 'all-hidden' } });
  expect(taker.asked).toEqual([]);
});

test('what could not be announced is told, and nothing is sent', async () => {
  const problem = { code: 'outside-root', fact: 'It leads out.', wayOut: 'Name it otherwise.' };
  await uploader.bring('yard', dropped('one'), () => Promise.reject(problem));
  expect(uploader.read()).toMatchObject({ phase: 'failed', problem });
  expect(taker.asked).toEqual([]);
});

test('a connection that breaks off is taken up where it was', async () => {
  let broken = 0;
  taker.fault = (request) => {
    if (request.method === 'HEAD' || broken === 2) return false;
    broken += 1;
    request.socket.destroy();
    return true;
  };
  await uploader.bring('yard', dropped('some words of a file'), announce());
  expect(broken).toBe(2);
  expect(uploader.read()).toMatchObject({ phase: 'done', arrived: 1, sent: 20 });
  expect(Object.values(taker.whole())).toEqual(['some words of a file']);
});

test('stopped, nothing more is sent; what comes late changes nothing', async () => {
  const held: ServerResponse[] = [];
  taker.fault = (_request, response) => {
    held.push(response);
    return true;
  };
  const ends = uploader.bring('yard', dropped(...Array.from({ length: 9 }, (_, at) => `text ${at}`)), announce());
  await until(() => held.length === 4);
  uploader.stop();
  for (const response of held) response.destroy();
  await new Promise((done) => setTimeout(done, 50));
  expect(uploader.read()).toMatchObject({ phase: 'stopped', arrived: 0 });
  expect(held).toHaveLength(4);
  // The next drop has its own count, whatever becomes of the first.
  taker.fault = () => false;
  await uploader.bring('depot', dropped('new'), announce());
  expect(uploader.read()).toMatchObject({ phase: 'done', files: 1, arrived: 1, sent: 3 });
  void ends;
});
