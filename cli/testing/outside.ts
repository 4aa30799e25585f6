import { execFile, spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { Shale, type Said } from './shale.ts';

const project = fileURLToPath(new URL('../..', import.meta.url));

/** A task for the libraries that Shale does not use: see outside.py. */
export type Task = {
  do:
    | 'make'
    | 'make loop'
    | 'apart'
    | 'clip apart'
    | 'make avif'
    | 'middle'
    | 'animation'
    | 'sheet'
    | 'near'
    | 'make sound'
    | 'sound apart'
    | 'make plain'
    | 'clip sounds';
  path: string;
} & Record<string, unknown>;

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

let program: Shale | undefined;
afterAll(() => program?.close());

/** Does what `shale` with these arguments does, in this process: its worker processes serve all of a test's calls. */
export const shale = (...args: string[]): Promise<Said> => (program ??= new Shale()).run(...args);

/** Runs `shale` in a process of its own, as a script would. */
export function shaleProcess(...args: string[]): Promise<Said> {
  return new Promise((resolve) => {
    execFile(process.execPath, ['tools/shale.mjs', ...args], { cwd: project, maxBuffer: 1 << 26 }, (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, out, err }),
    );
  });
}
