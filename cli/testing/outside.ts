import { execFile, spawnSync } from 'node:child_process';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { spansPerProcess, WorkerPool } from '@shale/engine';
import { runCommand } from '../run.ts';

const project = fileURLToPath(new URL('../..', import.meta.url));

/** A task for the libraries that Shale does not use: see outside.py. */
export type Task = { do: 'make' | 'apart' | 'clip apart'; path: string } & Record<string, unknown>;

/** What other libraries answer to each task, in a process of theirs. @throws Error with what they said */
export function outside<T = Record<string, unknown>>(tasks: Task[]): T[] {
  const script = fileURLToPath(new URL('./outside.py', import.meta.url));
  const { status, stdout, stderr } = spawnSync('/usr/bin/python3', [script], {
    input: JSON.stringify(tasks),
    encoding: 'utf8',
    maxBuffer: 1 << 26,
  });
  if (status !== 0) throw new Error(stderr);
  return JSON.parse(stdout) as T[];
}

/** What the command line did. */
export interface Said {
  code: number;
  out: string;
  err: string;
}

let pool: WorkerPool | undefined;
let journals: Promise<string> | undefined;
afterAll(async () => {
  await pool?.close();
  if (journals) await rm(await journals, { recursive: true, force: true });
});

/** Does what `shale` with these arguments does, in this process: its worker processes serve all of a test's calls. */
export async function shale(...args: string[]): Promise<Said> {
  pool ??= new WorkerPool(2, {}, spansPerProcess);
  const said: Said = { code: 0, out: '', err: '' };
  said.code = await runCommand(args, {
    pool,
    out: (text) => (said.out += text),
    err: (text) => (said.err += text),
    journals: await (journals ??= mkdtemp(join(tmpdir(), 'shale-cli-'))),
    watched: false,
    signal: new AbortController().signal,
  });
  return said;
}

/** Runs `shale` in a process of its own, as a script would. */
export function shaleProcess(...args: string[]): Promise<Said> {
  return new Promise((resolve) => {
    execFile(process.execPath, ['tools/shale.mjs', ...args], { cwd: project, maxBuffer: 1 << 26 }, (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, out, err }),
    );
  });
}
