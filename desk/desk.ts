import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import express from 'express';
import { counters } from './counters.ts';
import { judge } from './judge.ts';

/** A desk that takes files or refuses them, by HTTP on loopback. */
export interface Desk {
  /** Without a slash at the end. */
  url: string;
  close(): Promise<void>;
}

/** The most bytes that the desk reads of a file. */
const most = '64mb';

/**
 * Opens the upload desk: `GET /counters` tells its rules, `POST /counters/NAME` takes the bytes of a file and answers 200 where it is
 * taken, 422 with the reasons where it is not.
 */
export async function openDesk(port = 0): Promise<Desk> {
  const app = express();
  app.disable('x-powered-by');
  app.get('/counters', (_request, response) => void response.json(counters));
  app.post('/counters/:name', express.raw({ type: () => true, limit: most }), (request, response) => {
    const { name } = request.params;
    if (!Object.hasOwn(counters, name)) {
      response.status(404).json({ taken: false, reasons: [`There is no counter ${name}.`] });
      return;
    }
    const body: unknown = request.body;
    const answer = judge(Buffer.isBuffer(body) ? body : new Uint8Array(), counters[name]!);
    response.status(answer.taken ? 200 : 422).json(answer);
  });
  const server = createServer(app);
  await new Promise<void>((done, failed) => {
    server.once('error', failed);
    server.listen(port, '127.0.0.1', done);
  });
  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    close: () =>
      new Promise((done) => {
        server.close(() => done());
        server.closeAllConnections();
      }),
  };
}
