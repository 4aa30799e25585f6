import { setTimeout as wait } from 'node:timers/promises';
import Mysql2Client from 'knex/lib/dialects/mysql2/index.js';
import { ShaleError } from '@shale/core';
import { log } from '../log.ts';

/** Longest time that one statement may take, and that a free connection is waited for, in milliseconds. */
const statementLimit = 60_000;
export const connectionLimit = 5_000;

/** Codes by which the driver tells that the server is not there, or does not answer. */
const awayCodes = new Set([
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'ETIMEDOUT',
  'PROTOCOL_CONNECTION_LOST',
  'PROTOCOL_SEQUENCE_TIMEOUT',
  'ER_SERVER_SHUTDOWN',
  'ER_CON_COUNT_ERROR',
]);

/** Whether it is known to be away: nobody waits for it then. */
let away = false;
/** Called when it is found to be away, by what waits for an answer. */
const waiting = new Set<() => void>();

/** Tells what a look at the database found; what waits for an answer of one that is away ends. */
export function setAway(is: boolean): void {
  away = is;
  if (away) for (const giveUp of [...waiting]) giveUp();
}

/** What is told where the database cannot be asked. */
export const databaseAway = (cause?: unknown): ShaleError =>
  new ShaleError(
    {
      code: 'database-away',
      fact: 'Shale’s database does not answer.',
      wayOut: 'Shale restarts it by itself; files and running jobs are safe. Try again in a moment.',
    },
    { cause },
  );

/** A failed statement as a person is told of it: never the driver's words, which hold the statement. They go to the log. */
function inWords(error: unknown): ShaleError {
  if (error instanceof ShaleError) return error;
  const { code = '', name, message } = error as { code?: string; name?: string; message: string };
  if (awayCodes.has(code) || name === 'KnexTimeoutError' || /closed state|Pool is destroyed/.test(message))
    return databaseAway(error);
  log('error', `database: ${code} ${message}`);
  if (code === 'ER_RECORD_FILE_FULL' || code === 'ER_DISK_FULL')
    return new ShaleError(
      {
        code: 'disk-full',
        fact: 'The disk that holds Shale’s own data is full: its database could not write.',
        wayOut: 'Free some space on it; files and running jobs are safe.',
      },
      { cause: error },
    );
  return new ShaleError(
    {
      code: 'database-failed',
      fact: 'Shale’s database refused the request.',
      wayOut: 'This is a fault in Shale; its log has the details.',
    },
    { cause: error },
  );
}

/** Knex over mysql2, with a limit of time for each statement and every error in words. */
export class WatchedClient extends Mysql2Client {
  override async _query(connection: unknown, asked: { options?: object }): Promise<unknown> {
    asked.options = { timeout: statementLimit, ...asked.options };
    let giveUp = () => undefined as void;
    const gone = new Promise<never>((_, reject) => {
      giveUp = () => reject(databaseAway());
      waiting.add(giveUp);
    });
    try {
      return await Promise.race([super._query(connection, asked), gone]);
    } catch (error) {
      throw inWords(error);
    } finally {
      waiting.delete(giveUp);
    }
  }

  override async acquireConnection(): Promise<unknown> {
    if (away) throw databaseAway();
    try {
      return await super.acquireConnection();
    } catch (error) {
      throw inWords(error);
    }
  }
}

export const isAway = (error: unknown): boolean => error instanceof ShaleError && error.code === 'database-away';

/** Pause before work that needs the database is tried again, in milliseconds. */
const pause = 1000;

/** Does work that must not be lost: while the database is away it is tried again, until `givesUp` says otherwise. */
export async function patiently<T>(work: () => Promise<T>, givesUp: () => boolean): Promise<T> {
  for (;;) {
    try {
      return await work();
    } catch (error) {
      if (!isAway(error) || givesUp()) throw error;
      await wait(pause);
    }
  }
}
