import { appendFile, readFile, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { jobLogLineSchema, type JobLogLine } from '@shale/contract';

/** Bytes that a job's log may take: what comes after is not noted. */
const bound = 1 << 20;

/** What happened to a job, a line each: when it began, stopped, went on, and what failed. Beside its journal, for people. */
export class JobLog {
  private last: Promise<void> = Promise.resolve();
  private readonly path: string;

  constructor(folder: string, job: string) {
    this.path = join(folder, `${job}.log`);
  }

  /** Notes a line; a log that cannot be written costs nothing else. */
  note(level: JobLogLine['level'], text: string): void {
    const line = JSON.stringify({ at: new Date().toISOString(), level, text } satisfies JobLogLine);
    this.last = this.last
      .then(async () => {
        const size = await stat(this.path).then(
          (told) => told.size,
          () => 0,
        );
        if (size < bound) await appendFile(this.path, `${line}\n`);
      })
      .catch(() => undefined);
  }

  /** All its lines, the first first. */
  async read(): Promise<JobLogLine[]> {
    await this.last;
    const text = await readFile(this.path, 'utf8').catch(() => '');
    return text.split('\n').flatMap((line) => {
      try {
        const parsed = jobLogLineSchema.safeParse(JSON.parse(line));
        return parsed.success ? [parsed.data] : [];
      } catch {
        return [];
      }
    });
  }
}
