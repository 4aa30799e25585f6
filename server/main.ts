import { readFileSync } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { createServer, type RequestListener, type Server } from 'node:http';
import { cpus } from 'node:os';
import { join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { problemOf, quietAfter, ShaleError } from '@shale/core';
import { spansPerProcess, WorkerPool } from '@shale/engine';
import { Condition } from './condition.ts';
import { Events } from './events.ts';
import { takeData } from './lock.ts';
import { makeApp } from './http/app.ts';
import { Intake } from './intake/intake.ts';
import { Jobs } from './jobs/jobs.ts';
import { MadeSources } from './made.ts';
import { Previews } from './previews.ts';
import { Renames } from './renames/renames.ts';
import { quietSchema, readRoots, type RootConfig } from './roots/config.ts';
import { Checks } from './roots/checks.ts';
import { Roots } from './roots/roots.ts';
import { startDatabase, type Database } from './store/mariadb.ts';
import { Store } from './store/store.ts';

const project = fileURLToPath(new URL('..', import.meta.url));
const data = resolve(process.env.SHALE_DATA ?? join(project, '.shale'));
const host = process.env.SHALE_HOST ?? '127.0.0.1';
const port = Number(process.env.SHALE_PORT ?? 4173);
const workers = Math.max(1, Number(process.env.SHALE_WORKERS ?? cpus().length));

/** Seconds. */
const quiet = Number(process.env.SHALE_QUIET ?? quietAfter / 1000);

/** The root that files are brought into. */
const intakeRoot = 'intake';

const began = performance.now();
let last = began;
/** Says what is done and how long it took. */
function say(what: string): void {
  const now = performance.now();
  console.log(`  ${what} (${((now - last) / 1000).toFixed(1)} s)`);
  last = now;
}

function listen(server: Server): Promise<void> {
  return new Promise((done, fail) => {
    server.once('error', (error: NodeJS.ErrnoException) =>
      fail(
        error.code === 'EADDRINUSE'
          ? new ShaleError({
              code: 'port-taken',
              fact: `Port ${port} is taken by another program.`,
              wayOut: `Start with another one: SHALE_PORT=${port + 1} npm start`,
              subject: String(port),
            })
          : error,
      ),
    );
    server.listen(port, host, () => done());
  });
}

/** Who answers requests: nobody yet, until the database is up and the application is made. */
let answer: RequestListener = (_request, response) => {
  response.writeHead(503, { 'retry-after': '1', 'content-type': 'text/plain' }).end('Shale is starting.\n');
};

async function main(): Promise<void> {
  if (!Number.isInteger(port) || port < 1 || port > 65_535) {
    throw new ShaleError({
      code: 'bad-port',
      fact: `SHALE_PORT is "${process.env.SHALE_PORT}".`,
      wayOut: 'Give a port from 1 to 65535.',
    });
  }
  if (!quietSchema.safeParse(quiet).success) {
    throw new ShaleError({
      code: 'bad-quiet',
      fact: `SHALE_QUIET is "${process.env.SHALE_QUIET}".`,
      wayOut: 'Give the seconds after which a file that does not change counts as whole, from 1 to 86400.',
    });
  }
  await mkdir(data, { recursive: true });
  const giveFree = takeData(data);
  process.on('exit', giveFree);
  // The port is taken before anything is started, so that a second copy gives way at once.
  const server = createServer((request, response) => answer(request, response));
  await listen(server);
  const configs = await readRoots(process.env.SHALE_CONFIG ?? join(project, 'shale.config.json'), [
    {
      id: 'museum',
      name: 'Tram museum',
      path: process.env.SHALE_DEMO ?? join(data, 'demo', 'tram_museum'),
      writable: false,
    },
    { id: intakeRoot, name: 'Brought in', path: join(data, 'intake'), writable: false, own: true },
    { id: 'results', name: 'Results', path: join(data, 'results'), writable: true },
  ]);
  const database = await startDatabase(join(data, 'db'));
  try {
    await serve(server, configs, database);
  } catch (error) {
    await database.stop();
    throw error;
  }
}

async function serve(server: Server, configs: RootConfig[], database: Database): Promise<void> {
  say('MariaDB is up on loopback');
  const store = await Store.open(database);
  say('its schema is current');

  const events = new Events();
  const looking = new WorkerPool(2, { SHALE_EXR_THREADS: '2' });
  const working = new WorkerPool(workers, { SHALE_NICE: '5' }, spansPerProcess);
  looking.warm();
  const roots = new Roots(configs, {
    store,
    pool: looking,
    send: (event) => events.send(event),
    readings: join(data, 'readings'),
    quiet: quiet * 1000,
  });
  const checks = new Checks(roots, working, (event) => events.send(event));
  const intake = new Intake(join(data, 'intake'), join(data, 'uploads'), store, (folder) =>
    roots.rescan(intakeRoot, folder),
  );
  await intake.begin();
  const previews = new Previews(join(data, 'previews'), looking);
  const jobs = new Jobs(store, roots, working, events, join(data, 'journal'));
  const renames = new Renames(store, roots, jobs, events, join(data, 'renames'));
  const made = new MadeSources(join(data, 'proofs'), looking, store, roots, jobs);
  await Promise.all([previews.begin(), made.begin()]);
  // Names are settled before anything is scanned.
  await renames.begin();
  const version = (JSON.parse(readFileSync(join(project, 'package.json'), 'utf8')) as { version: string }).version;
  const own = ['journal', 'renames'].map((name) => join(data, name));
  await Promise.all(own.map((folder) => mkdir(folder, { recursive: true })));
  const condition = new Condition(store, [data, ...own], events, () => roots.scanAll());
  answer = makeApp({
    condition,
    version,
    store,
    roots,
    checks,
    jobs,
    renames,
    intake,
    previews,
    made,
    pool: looking,
    events,
    page: join(project, 'web', 'dist'),
    workers,
  });
  await roots.begin();
  await jobs.begin();
  condition.begin();
  console.log(`Shale is ready at http://${host}:${port} (${((performance.now() - began) / 1000).toFixed(1)} s)`);

  let ending = false;
  const end = async () => {
    if (ending) return;
    ending = true;
    condition.close();
    checks.close();
    events.close();
    server.close();
    server.closeAllConnections();
    await Promise.all([jobs.close(), renames.close()]);
    // Scans are told to end before the processes that they ask are gone; what those had in work is given up with them.
    const scansEnd = roots.close();
    await Promise.all([looking.close(), working.close()]);
    await scansEnd;
    await store.close();
    await database.stop();
    process.exit(0);
  };
  process.on('SIGINT', () => void end());
  process.on('SIGTERM', () => void end());
  // Started by `npm start`: if that process is gone, nobody else will end this one.
  process.on('disconnect', () => void end());
}

// What nobody waited for is a fault of ours: it is logged, and the server goes on.
process.on('unhandledRejection', (error) => {
  process.stderr.write(`unhandled: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`);
});

main().catch((error: unknown) => {
  const { code, fact, wayOut } = problemOf(error);
  console.error(`Shale did not start: ${fact}\n  ${wayOut}`);
  if (code === 'internal' && error instanceof Error) console.error(error.stack);
  process.exit(1);
});
