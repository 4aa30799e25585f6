import { cpus } from 'node:os';
import { join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { spansPerProcess, WorkerPool } from '@shale/engine';
import { runCommand } from './run.ts';

// Whoever reads may have enough: `shale rename ... | head`.
process.stdout.on('error', (error: NodeJS.ErrnoException) => process.exit(error.code === 'EPIPE' ? 0 : 1));

const stop = new AbortController();
const pool = new WorkerPool(cpus().length, { together: spansPerProcess });
try {
  process.exitCode = await runCommand(process.argv.slice(2), {
    pool,
    out: (text) => void process.stdout.write(text),
    err: (text) => void process.stderr.write(text),
    journals: join(resolve(process.env.SHALE_DATA ?? fileURLToPath(new URL('../.shale', import.meta.url))), 'renames'),
    watched: process.stderr.isTTY,
    get signal() {
      process.once('SIGINT', () => stop.abort());
      return stop.signal;
    },
  });
} finally {
  await pool.close();
}
