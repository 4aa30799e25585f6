import { mkdir, open, readFile, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { log } from './log.ts';
import type { Store } from './store/store.ts';

/** Jobs that are looked at in one go. */
const together = 100;

const day = 86_400_000;

/** How often it is looked, in milliseconds. */
const lookEvery = 6 * 3_600_000;

/**
 * Takes jobs at rest that are older than the operator's rule out of the database, with their receipts, plans and journals. Each is
 * written to a file of its own in the archive, and flushed, before anything of it is removed.
 */
export class Prune {
  private timer: NodeJS.Timeout | undefined;
  private under: Promise<void> = Promise.resolve();
  private closing = false;

  constructor(
    private readonly store: Store,
    private readonly journals: string,
    private readonly archive: string,
    /** Null where everything is kept. */
    private readonly days: number | null,
  ) {}

  begin(): void {
    if (this.days === null) return;
    const look = () => {
      this.under = this.look().then(
        () => undefined,
        (error: unknown) => log('error', `pruning: ${String(error)}`),
      );
    };
    look();
    this.timer = setInterval(look, lookEvery);
    this.timer.unref();
  }

  async close(): Promise<void> {
    this.closing = true;
    clearInterval(this.timer);
    await this.under;
  }

  /** @returns how many jobs were archived */
  async look(now = Date.now()): Promise<number> {
    if (this.days === null) return 0;
    let archived = 0;
    for (;;) {
      const old = await this.store.listOldJobs(now - this.days * day, together);
      for (const id of old) {
        if (this.closing) return archived;
        await this.put(id);
        archived += 1;
      }
      if (old.length < together) break;
    }
    if (archived > 0) await this.store.batches.removeEmpty();
    if (archived > 0) log('info', `archived ${archived} jobs older than ${this.days} days`);
    return archived;
  }

  private async put(id: string): Promise<void> {
    const whole = await this.store.jobWhole(id);
    const text = (name: string) => readFile(join(this.journals, name), 'utf8').catch(() => null);
    const kept = { ...whole, journal: await text(`${id}.ndjson`), log: await text(`${id}.log`) };
    await mkdir(this.archive, { recursive: true });
    const path = join(this.archive, `${id}.json`);
    const file = await open(`${path}.part`, 'w');
    try {
      await file.writeFile(JSON.stringify(kept, null, 1));
      await file.datasync();
    } finally {
      await file.close();
    }
    await rename(`${path}.part`, path);
    await this.store.removeJob(id);
    for (const name of [`${id}.ndjson`, `${id}.log`, `${id}.stamps`])
      await rm(join(this.journals, name), { force: true });
  }
}
