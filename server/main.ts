import { mkdir } from 'node:fs/promises';
import { createServer, type RequestListener, type Server } from 'node:http';
import { cpus } from 'node:os';
import { join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { problemOf, quietAfter, ShaleError } from '@shale/core';
import { shaleVersion, spansPerProcess, WorkerPool } from '@shale/engine';
import { Batches } from './batches/batches.ts';
import { Condition } from './condition.ts';
import { Events } from './events.ts';
import { takeData } from './lock.ts';
import { keepLog, log, textOf } from './log.ts';
import { makeApp } from './http/app.ts';
import { Intake } from './intake/intake.ts';
import { Jobs } from './jobs/jobs.ts';
import { MadeSources } from './made.ts';
import { UploadDesk } from './desk.ts';
import { Previews } from './previews.ts';
import { Searches } from './searches.ts';
import { Prune } from './prune.ts';
import { Renames } from './renames/renames.ts';
import { quietSchema, readRoots, type RootConfig } from './roots/config.ts';
import { AddedFolders, usualPlaces } from './roots/folders.ts';
import { Checks } from './roots/checks.ts';
import { Roots } from './roots/roots.ts';
import { StandingOrders } from './standing/standing.ts';
import { startDatabase, type Database } from './store/mariadb.ts';
import { Store } from './store/store.ts';

const project = fileURLToPath(new URL('..', import.meta.url));
const data = resolve(process.env.SHALE_DATA ?? join(project, '.shale'));
/** Loopback only: whoever reaches the port may read and write the roots, and there is no sign-in yet. */
const host = '127.0.0.1';
const port = Number(process.env.SHALE_PORT ?? 4173);
const workers = Math.max(1, Number(process.env.SHALE_WORKERS ?? cpus().length));

/** Seconds. */
const quiet = Number(process.env.SHALE_QUIET ?? quietAfter / 1000);

/** How long ending may take, in milliseconds. */
const endLimit = 20_000;
/** The exit after which the server is started again. */
const crashCode = 70;
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

/** What ends what was started, the last first. */
const closers: (() => Promise<unknown> | void)[] = [];
const ending = new AbortController();
let ended: Promise<void> | undefined;

/** Ends all that was started, whenever it is asked for, and then the process. @param code of the exit */
function end(code: number): Promise<void> {
  ending.abort();
  ended ??= (async () => {
    // Whatever does not end by itself keeps nothing alive.
    setTimeout(() => process.exit(code), endLimit).unref();
    for (let close = closers.pop(); close; close = closers.pop()) {
      try {
        await close();
      } catch (error) {
        log('error', `ending: ${textOf(error)}`);
      }
    }
    process.exit(code);
  })();
  return ended;
}

/** Refuses settings that do not fit. @throws ShaleError */
function refuseSettings(): void {
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
  const asked = process.env.SHALE_HOST;
  if (asked !== undefined && asked !== host && asked !== 'localhost') {
    throw new ShaleError({
      code: 'bad-host',
      fact: `SHALE_HOST is "${asked}": Shale answers on this machine alone, because it has no sign-in yet.`,
      wayOut: `Leave it out. From another machine reach it through a tunnel: ssh -L ${port}:127.0.0.1:${port} HOST`,
    });
  }
}

async function main(): Promise<void> {
  refuseSettings();
  await mkdir(data, { recursive: true });
  keepLog(join(data, 'log', 'server.ndjson'), process.env.SHALE_LOG);
  process.on('exit', takeData(data));
  // The port is taken before anything is started, so that a second copy gives way at once.
  const server = createServer((request, response) => answer(request, response));
  await listen(server);
  closers.push(() => {
    server.close();
    server.closeAllConnections();
  });
  const {
    roots: set,
    keepDays,
    places,
  } = await readRoots(process.env.SHALE_CONFIG ?? join(project, 'shale.config.json'), [
    {
      id: 'museum',
      name: 'Tram museum',
      path: process.env.SHALE_DEMO ?? join(data, 'demo', 'tram_museum'),
      writable: false,
    },
    { id: intakeRoot, name: 'Uploads', path: join(data, 'intake'), writable: false, own: true },
    { id: 'results', name: 'Results', path: join(data, 'results'), writable: true },
  ]);
  const folders = new AddedFolders(join(data, 'folders.json'), places ?? usualPlaces(), data);
  const configs = withAdded(set, await folders.begin());
  const database = await startDatabase(join(data, 'db'), ending.signal);
  closers.push(() => database.stop());
  await serve(server, configs, folders, keepDays, database);
}

/** Folders that were added before those that were set; one whose id or folder was set since is left out. */
const withAdded = (set: RootConfig[], added: RootConfig[]): RootConfig[] => [
  ...added.filter((one) => !set.some(({ id, path }) => id === one.id || path === one.path)),
  ...set,
];

async function serve(
  server: Server,
  configs: RootConfig[],
  folders: AddedFolders,
  keepDays: number | null,
  database: Database,
): Promise<void> {
  say('MariaDB is up on loopback');
  const store = await Store.open(database);
  closers.push(() => store.close());
  say('its schema is current');
  const events = new Events();
  const pools = {
    looking: new WorkerPool(2, { env: { SHALE_EXR_THREADS: '2' } }),
    scanning: new WorkerPool(2, { env: { SHALE_EXR_THREADS: '2' }, nice: 2 }),
    trying: new WorkerPool(Math.max(2, workers), { nice: 4 }),
    working: new WorkerPool(workers, { nice: 10, together: spansPerProcess }),
  };
  // Scans are told to end before the processes that they ask are gone; what those had in work is given up with them.
  let scansEnd: Promise<void> | undefined;
  closers.push(() => scansEnd);
  closers.push(() => Promise.all(Object.values(pools).map((pool) => pool.close())));
  pools.looking.warm();
  const roots = new Roots(
    configs,
    {
      store,
      pool: pools.scanning,
      send: (event) => events.send(event),
      readings: join(data, 'readings'),
      quiet: quiet * 1000,
    },
    folders,
  );
  const checks = new Checks(roots, pools.working, (event) => events.send(event));
  const intake = new Intake(join(data, 'intake'), join(data, 'uploads'), store, (folder) =>
    roots.rescan(intakeRoot, folder),
  );
  await intake.begin();
  const previews = new Previews(join(data, 'previews'), pools.looking);
  const jobs = new Jobs(store, roots, pools.working, events, join(data, 'journal'));
  const batches = new Batches(store, jobs, events);
  closers.push(() => batches.close());
  const renames = new Renames(store, roots, jobs, events, join(data, 'renames'), pools.looking);
  const made = new MadeSources(join(data, 'proofs'), pools.trying, store, roots, jobs);
  const searches = new Searches(join(data, 'searches'), pools.trying, roots);
  closers.push(() => searches.close());
  const desk = new UploadDesk(process.env.SHALE_DESK);
  closers.push(() => desk.close());
  await Promise.all([previews.begin(), made.begin(), searches.begin()]);
  // Names are settled before anything is scanned.
  await renames.begin();
  const own = ['journal', 'renames'].map((name) => join(data, name));
  await Promise.all(own.map((folder) => mkdir(folder, { recursive: true })));
  const condition = new Condition(
    store,
    [data, ...own],
    pools,
    events,
    () => roots.scanAll(),
    () => database.replace(),
    () => jobs.counts.written,
  );
  // Those that wait are there before anybody may ask for them.
  await jobs.begin();
  const shared = {
    store,
    roots,
    checks,
    jobs,
    batches,
    renames,
    intake,
    previews,
    made,
    searches,
    desk,
    pools,
    events,
  };
  const workshop = { ...shared, workers };
  const standing = new StandingOrders(workshop);
  answer = makeApp({ ...workshop, standing, condition, version: shaleVersion, page: join(project, 'web', 'dist') });
  closers.push(async () => {
    condition.close();
    checks.close();
    events.close();
    server.close();
    server.closeAllConnections();
    await standing.close();
    await Promise.all([jobs.close(), renames.close()]);
    scansEnd = roots.close();
  });
  const prune = new Prune(store, join(data, 'journal'), join(data, 'archive'), keepDays);
  closers.push(() => prune.close());
  await standing.begin();
  await roots.begin();
  condition.begin();
  prune.begin();
  const opened = await openFolder(roots);
  console.log(
    `Shale is ready at http://${host}:${port}${opened} (${((performance.now() - began) / 1000).toFixed(1)} s)`,
  );
}

/** The folder that `npm start -- FOLDER` names, added if it is not there yet. @returns where it is opened, below the address */
async function openFolder(roots: Roots): Promise<string> {
  const path = process.env.SHALE_OPEN;
  if (!path) return '';
  try {
    const known = (await roots.list()).find((root) => root.path === path);
    const { id } = known ?? (await roots.add({ path, writable: false }, true));
    return `/intake?root=${id}`;
  } catch (error) {
    const { fact, wayOut } = problemOf(error);
    console.error(`  ${fact} ${wayOut}`);
    return '';
  }
}

process.on('SIGINT', () => void end(0));
process.on('SIGTERM', () => void end(0));
// Started by `npm start`: if that process is gone, nobody else will end this one.
process.on('disconnect', () => void end(0));

// What nobody waited for is a fault of ours: it is logged, and the server goes on.
process.on('unhandledRejection', (error) => log('error', `unhandled: ${textOf(error)}`));
// After this nothing is known of what is whole: all is ended cleanly, and begun again by whoever started it.
process.on('uncaughtException', (error) => {
  log('error', `crashed: ${textOf(error)}`);
  void end(crashCode);
});

main().catch(async (error: unknown) => {
  if (!ending.signal.aborted) {
    const { code, fact, wayOut } = problemOf(error);
    console.error(`Shale did not start: ${fact}\n  ${wayOut}`);
    if (code === 'internal' && error instanceof Error) console.error(error.stack);
  }
  await end(ending.signal.aborted ? 0 : 1);
});
