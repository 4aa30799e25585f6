import { execFile, spawn, type ChildProcess } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync, openSync } from 'node:fs';
import { mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { promisify } from 'node:util';
import { createConnection } from 'mysql2/promise';
import { log } from '../log.ts';

const run = promisify(execFile);

/** Where the private database listens, and how to enter it. */
export interface Database {
  host: '127.0.0.1';
  port: number;
  user: 'shale';
  password: string;
  database: 'shale';
  /** Ends a server that does not answer any more; it is started again. Nothing where that is under way. */
  replace(): void;
  /** Ends the server process and waits for it. */
  stop(): Promise<void>;
}

/** Pauses before a database that ended by itself is started again, in milliseconds; the last of them from then on. */
const pauses = [0, 500, 1000, 2000, 5000, 10_000];

/** A port of the loopback that nobody listens on now. */
export function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer();
    probe.once('error', reject);
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => resolve(port));
    });
  });
}

const asUser = (): string[] => (process.getuid?.() === 0 ? ['--user=root'] : []);

async function install(data: string, tmp: string, signal?: AbortSignal): Promise<void> {
  const half = `${data}.new`;
  await rm(half, { recursive: true, force: true });
  await mkdir(half, { recursive: true });
  await run(
    'mariadb-install-db',
    [
      '--no-defaults',
      `--datadir=${half}`,
      `--tmpdir=${tmp}`,
      '--auth-root-authentication-method=normal',
      '--skip-test-db',
      ...asUser(),
    ],
    {
      env: { ...process.env, PATH: `${process.env.PATH}:/usr/sbin` },
      signal,
    },
  );
  await rename(half, data);
}

/** Ends a database that an earlier, killed start left running on this very data folder. */
async function endOrphan(pidFile: string, data: string): Promise<void> {
  const pid = Number(await readFile(pidFile, 'utf8').catch(() => ''));
  if (!pid) return;
  const commandLine = await readFile(`/proc/${pid}/cmdline`, 'utf8').catch(() => '');
  if (!commandLine.includes(data)) return;
  process.kill(pid, 'SIGTERM');
  for (let tries = 0; tries < 150 && existsSync(`/proc/${pid}`); tries += 1) await wait(100);
}

async function password(folder: string): Promise<{ secret: string; isNew: boolean }> {
  const path = join(folder, 'password');
  const kept = await readFile(path, 'utf8').catch(() => '');
  if (kept) return { secret: kept, isNew: false };
  return { secret: randomBytes(18).toString('hex'), isNew: true };
}

/**
 * Starts a private MariaDB on a free loopback port, over its own data folder; no other server is touched. The first
 * start makes the data folder and gives the account a password of its own.
 * @param signal aborted where it is to end while it starts: nothing of it is left then
 */
export async function startDatabase(folder: string, signal?: AbortSignal): Promise<Database> {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const data = join(folder, 'data');
  const pidFile = join(folder, 'pid');
  await endOrphan(pidFile, data);
  const { secret, isNew } = await password(folder);
  if (isNew) await rm(data, { recursive: true, force: true });
  // Its own place for temporary tables: a server that starts clears them away, another's with them.
  const tmp = join(folder, 'tmp');
  await mkdir(tmp, { recursive: true });
  if (!existsSync(data)) await install(data, tmp, signal);
  const port = await freePort();
  const output = openSync(join(folder, 'mariadb.log'), 'a');
  const args = [
    '--no-defaults',
    `--datadir=${data}`,
    `--tmpdir=${tmp}`,
    `--pid-file=${pidFile}`,
    '--bind-address=127.0.0.1',
    `--port=${port}`,
    // Relative to the data folder: a socket's whole path may only be 107 bytes long.
    '--socket=shale.sock',
    '--skip-name-resolve',
    '--skip-log-bin',
    '--performance-schema=off',
    '--innodb-buffer-pool-size=64M',
    '--innodb-log-file-size=24M',
    '--character-set-server=utf8mb4',
    '--collation-server=utf8mb4_bin',
    '--max-allowed-packet=256M',
    ...asUser(),
  ];
  let stopping = false;
  let isUp = false;
  let ended: Promise<void>;
  let child: ChildProcess;

  const launch = async (first: boolean): Promise<void> => {
    const started = spawn('mariadbd', args, {
      stdio: ['ignore', output, output],
      // Detached: Ctrl-C reaches the terminal's whole group, and the database must outlive the server's last write.
      detached: true,
      env: { ...process.env, PATH: `${process.env.PATH}:/usr/sbin` },
    });
    child = started;
    ended = new Promise<void>((resolve) => started.once('close', () => resolve()));
    const giveUp = () => void started.kill('SIGTERM');
    signal?.addEventListener('abort', giveUp);
    if (signal?.aborted) giveUp();
    try {
      await prepare(started, port, secret, first, folder);
    } catch (error) {
      if (!signal?.aborted) started.kill('SIGKILL');
      await ended;
      throw error;
    } finally {
      signal?.removeEventListener('abort', giveUp);
    }
    isUp = true;
    void ended.then(() => {
      isUp = false;
      if (!stopping && child === started) void again();
    });
  };

  /** Starts it again on the same port, however often that takes: whoever has a connection to it only makes a new one. */
  const again = async (): Promise<void> => {
    for (let tries = 0; !stopping; tries += 1) {
      await wait(pauses[Math.min(tries, pauses.length - 1)]);
      if (stopping) return;
      try {
        await launch(false);
        log('warning', 'database: it had ended and was started again');
        return;
      } catch (error) {
        log('error', `database: it ended and does not start again: ${(error as Error).message}`);
      }
    }
  };

  await launch(isNew);
  await writeFile(portFile(folder), String(port), { mode: 0o600 });
  return {
    host: '127.0.0.1',
    port,
    user: 'shale',
    password: secret,
    database: 'shale',
    replace() {
      if (isUp) child.kill('SIGKILL');
    },
    async stop() {
      stopping = true;
      if (child.exitCode === null && child.signalCode === null) child.kill('SIGTERM');
      await ended;
    },
  };
}

/** Where the port of a database that runs is noted, beside its data. */
const portFile = (folder: string): string => join(folder, 'port');

/** The database of a folder that a server has running; undefined where none runs. It is not that one's to stop. */
export async function runningDatabase(folder: string): Promise<Database | undefined> {
  const pid = Number(await readFile(join(folder, 'pid'), 'utf8').catch(() => ''));
  const port = Number(await readFile(portFile(folder), 'utf8').catch(() => ''));
  if (!pid || !port || !existsSync(`/proc/${pid}`)) return undefined;
  const { secret, isNew } = await password(folder);
  if (isNew) return undefined;
  const place = {
    host: '127.0.0.1' as const,
    port,
    user: 'shale' as const,
    password: secret,
    database: 'shale' as const,
  };
  try {
    await (await createConnection({ ...place, connectTimeout: 3000 })).end();
  } catch {
    return undefined;
  }
  return { ...place, replace: () => undefined, stop: async () => undefined };
}

async function prepare(
  child: ChildProcess,
  port: number,
  secret: string,
  isNew: boolean,
  folder: string,
): Promise<void> {
  let failed: Error | undefined;
  child.once('error', (error) => (failed = error));
  for (let tries = 0; ; tries += 1) {
    if (failed) throw failed;
    if (child.exitCode !== null || child.signalCode !== null || tries > 300)
      throw new Error(`MariaDB did not start; ${join(folder, 'mariadb.log')} says why.`);
    try {
      const user = isNew ? { user: 'root', password: '' } : { user: 'shale', password: secret };
      const connection = await createConnection({ host: '127.0.0.1', port, ...user });
      if (isNew) for (const statement of settling(secret)) await connection.query(statement);
      await connection.end();
      if (isNew) await writeFile(join(folder, 'password'), secret, { mode: 0o600 });
      return;
    } catch (error) {
      if ((error as { code?: string }).code !== 'ECONNREFUSED') throw error;
      await wait(50);
    }
  }
}

/** One account with a password, for one database; those that the installation left open are closed. */
const settling = (secret: string): string[] => [
  'CREATE DATABASE shale CHARACTER SET utf8mb4 COLLATE utf8mb4_bin',
  `CREATE USER 'shale'@'127.0.0.1' IDENTIFIED BY '${secret}'`,
  `GRANT ALL ON shale.* TO 'shale'@'127.0.0.1'`,
  `DELETE FROM mysql.global_priv WHERE User IN ('', 'root') AND Host <> 'localhost'`,
  `ALTER USER 'root'@'localhost' IDENTIFIED BY '${secret}'`,
  'FLUSH PRIVILEGES',
];
