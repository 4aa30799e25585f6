import type { ChildProcess } from 'node:child_process';
import { cpus } from 'node:os';
import { join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { spansPerProcess, WorkerPool } from '@shale/engine';
import { runCommand } from './run.ts';

declare global {
  /** Processes that tools/shale.mjs started while this program was loaded. */
  var begunWorkers: readonly ChildProcess[] | undefined;
}

// Whoever reads may have enough: `shale rename ... | head`.
process.stdout.on('error', (error: NodeJS.ErrnoException) => process.exit(error.code === 'EPIPE' ? 0 : 1));

const data = resolve(process.env.SHALE_DATA ?? fileURLToPath(new URL('../.shale', import.meta.url)));
/** Made once it is asked for: a command that does not ask is ended by the system. */
let stop: AbortController | undefined;
function stopOf(): AbortController {
  if (stop) return stop;
  const made = new AbortController();
  process.once('SIGINT', () => made.abort());
  stop = made;
  return made;
}

async function main(): Promise<void> {
  const pool = new WorkerPool(cpus().length, { together: spansPerProcess });
  pool.takeOver(globalThis.begunWorkers ?? []);
  try {
    process.exitCode = await runCommand(process.argv.slice(2), {
      pool,
      out: (text) => void process.stdout.write(text),
      err: (text) => void process.stderr.write(text),
      journals: join(data, 'renames'),
      made: join(data, 'made'),
      watched: process.stderr.isTTY,
      get signal() {
        return stopOf().signal;
      },
    });
  } finally {
    await pool.close();
  }
}

void main();
