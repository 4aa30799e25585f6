import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { spansPerProcess, WorkerPool } from '@shale/engine';
import { runCommand } from '../run.ts';

/** What the command line did. */
export interface Said {
  code: number;
  out: string;
  err: string;
}

/** The command line in this process: its worker processes serve all calls. */
export class Shale {
  private readonly pool = new WorkerPool(2, { together: spansPerProcess });
  private journals: Promise<string> | undefined;

  /** Does what `shale` with these arguments does. */
  run(...args: string[]): Promise<Said> {
    return this.runUntil(new AbortController().signal, ...args);
  }

  /** The same, until it is told to stop. */
  async runUntil(signal: AbortSignal, ...args: string[]): Promise<Said> {
    const said: Said = { code: 0, out: '', err: '' };
    said.code = await runCommand(args, {
      pool: this.pool,
      out: (text) => (said.out += text),
      err: (text) => (said.err += text),
      journals: await this.data(),
      made: join(await this.data(), 'made'),
      watched: false,
      signal,
    });
    return said;
  }

  private data(): Promise<string> {
    return (this.journals ??= mkdtemp(join(tmpdir(), 'shale-cli-')));
  }

  async close(): Promise<void> {
    await this.pool.close();
    if (this.journals) await rm(await this.journals, { recursive: true, force: true });
  }
}
