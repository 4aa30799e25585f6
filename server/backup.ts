import { createReadStream, createWriteStream } from 'node:fs';
import { open, rename, rm } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { createGunzip, createGzip } from 'node:zlib';
import type { Knex } from 'knex';
import { z } from 'zod';
import { ShaleError } from '@shale/core';
import { migrations } from './store/migrations.ts';

/** Tables in an order in which each stands after those that it refers to. */
const tables = [
  'sources',
  'scans',
  'words',
  'specs',
  'plans',
  'batches',
  'selections',
  'jobs',
  'receipts',
  'rules',
  'set_aside',
  'arrivals',
  'renames',
  'stacks',
  'receivers',
  'markers',
  'cadences',
] as const;

const headSchema = z.object({ shaleBackup: z.literal(1), schema: z.string(), at: z.string() });
const lineSchema = z.object({ table: z.enum(tables), row: z.record(z.string(), z.unknown()) });

/** Rows that are read or written at once. */
const together = 500;

const schemaNow = (): string => migrations.at(-1)!.name;

async function* linesOf(knex: Knex): AsyncGenerator<string> {
  yield `${JSON.stringify({ shaleBackup: 1, schema: schemaNow(), at: new Date().toISOString() })}\n`;
  for (const table of tables) {
    const { columns } = { columns: Object.keys(await knex(table).columnInfo()) };
    for (let offset = 0; ; offset += together) {
      const rows: Record<string, unknown>[] = await knex(table).orderBy(columns).limit(together).offset(offset);
      for (const row of rows) yield `${JSON.stringify({ table, row })}\n`;
      if (rows.length < together) break;
    }
  }
}

/**
 * Writes all that the database holds into one file, gzip of a JSON line a row; whole or not at all.
 * @returns how many rows
 */
export async function backUp(knex: Knex, path: string): Promise<number> {
  const half = `${path}.part`;
  let rows = -1;
  async function* counted(): AsyncGenerator<string> {
    for await (const line of linesOf(knex)) {
      rows += 1;
      yield line;
    }
  }
  try {
    await pipeline(counted(), createGzip(), createWriteStream(half, { mode: 0o600 }));
    const file = await open(half, 'r+');
    try {
      await file.datasync();
    } finally {
      await file.close();
    }
    await rename(half, path);
    return rows;
  } catch (error) {
    await rm(half, { force: true });
    throw error;
  }
}

const bad = (path: string, why: string): ShaleError =>
  new ShaleError({
    code: 'bad-backup',
    fact: `${path} ${why}.`,
    wayOut: 'Name a file that npm run backup wrote. Nothing was changed.',
    subject: path,
  });

/**
 * Puts a back-up in place of all that the database holds, in one transaction: all of it or nothing.
 * @returns how many rows
 * @throws ShaleError `bad-backup` where the file is none, is not whole, or is of another schema
 */
export async function restore(knex: Knex, path: string): Promise<number> {
  return knex.transaction(async (change) => {
    for (const table of [...tables].reverse()) await change(table).delete();
    let rows = -1;
    let waiting: { table: string; list: Record<string, unknown>[] } | undefined;
    const put = async () => {
      if (waiting) await change(waiting.table).insert(waiting.list);
      waiting = undefined;
    };
    for await (const line of linesIn(path)) {
      rows += 1;
      if (rows === 0) {
        const head = headSchema.safeParse(parse(line));
        if (!head.success) throw bad(path, 'is not a Shale backup');
        if (head.data.schema !== schemaNow())
          throw bad(path, `is of the schema ${head.data.schema}, and this version has ${schemaNow()}`);
        continue;
      }
      const read = lineSchema.safeParse(parse(line));
      if (!read.success) throw bad(path, `is damaged at row ${rows}`);
      if (waiting?.table !== read.data.table || waiting.list.length >= together) await put();
      waiting ??= { table: read.data.table, list: [] };
      waiting.list.push(read.data.row);
    }
    if (rows < 0) throw bad(path, 'is empty');
    await put();
    return rows;
  });
}

/** The lines of a zipped file. @throws ShaleError `bad-backup` where it is not whole */
async function* linesIn(path: string): AsyncGenerator<string> {
  const unzipped = createGunzip();
  const source = createReadStream(path).on('error', (error) => unzipped.destroy(error));
  let rest = '';
  try {
    for await (const piece of source.pipe(unzipped).setEncoding('utf8')) {
      const lines = (rest + (piece as string)).split('\n');
      rest = lines.pop()!;
      yield* lines;
    }
  } catch (error) {
    throw bad(path, `cannot be read: ${(error as Error).message}`);
  } finally {
    source.destroy();
  }
  if (rest !== '') yield rest;
}

function parse(line: string): unknown {
  try {
    return JSON.parse(line);
  } catch {
    return undefined;
  }
}
