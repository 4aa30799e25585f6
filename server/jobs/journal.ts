import { mkdir, open, readFile, type FileHandle } from 'node:fs/promises';
import { join } from 'node:path';
import {
  estimateSchema,
  failureSchema,
  asKeptNow,
  writtenSchema,
  writtenSoundSchema,
  ShaleError,
  type Estimate,
  type Failure,
  type Written,
} from '@shale/core';
import { writeError } from '@shale/engine';
import { z } from 'zod';

const lineSchema = z.union([
  z.object({ written: z.preprocess(asKeptNow, writtenSchema) }).strict(),
  z.object({ failed: failureSchema, index: z.int() }).strict(),
  z.object({ sound: writtenSoundSchema }).strict(),
  z.object({ estimate: estimateSchema }).strict(),
  // A stopped job that goes on tries its failed frames again: what stood before this line is forgotten.
  z.object({ retry: z.array(z.int()) }).strict(),
]);

export type JournalLine = z.infer<typeof lineSchema>;

/** What is settled of a job: written and failed results by index. */
export interface Settled {
  written: Map<number, Written>;
  failed: Map<number, Failure>;
  /** The sound that was written beside stills. */
  sound?: z.infer<typeof writtenSoundSchema>;
  /** What was thought of it before it ran. */
  estimate?: Estimate;
}

/** A job's results, a line each as they come, so that a server that stopped in the middle knows where it was. */
export class Journal {
  private file: FileHandle | undefined;
  private last: Promise<void> = Promise.resolve();

  constructor(
    private readonly folder: string,
    private readonly job: string,
  ) {}

  private get path(): string {
    return join(this.folder, `${this.job}.ndjson`);
  }

  /** Reads what is settled. A last line that was cut off by a crash is left out: its frame is done again. */
  async read(): Promise<Settled> {
    const settled: Settled = { written: new Map(), failed: new Map() };
    const text = await readFile(this.path, 'utf8').catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return '';
      throw error;
    });
    for (const line of text.split('\n')) {
      const parsed = lineSchema.safeParse(parseJson(line));
      if (!parsed.success) continue;
      if ('written' in parsed.data) settled.written.set(parsed.data.written.index, parsed.data.written);
      else if ('sound' in parsed.data) settled.sound = parsed.data.sound;
      else if ('estimate' in parsed.data) settled.estimate = parsed.data.estimate;
      else if ('failed' in parsed.data) settled.failed.set(parsed.data.index, parsed.data.failed);
      else for (const index of parsed.data.retry) settled.failed.delete(index);
    }
    return settled;
  }

  /** @throws ShaleError where it cannot be opened or written */
  async open(): Promise<void> {
    try {
      await mkdir(this.folder, { recursive: true });
      this.file = await open(this.path, 'a');
      await this.file.appendFile('\n');
    } catch (error) {
      await this.close();
      throw notWritten(error);
    }
  }

  /** Notes a line, after those before it. @throws ShaleError `disk-full` and its like: the line is not in the journal */
  add(line: JournalLine): Promise<void> {
    // Half a line may stand before, from a crash or a full disk: each begins on one of its own.
    const { file } = this;
    const added = this.last.then(() => file?.appendFile(`\n${JSON.stringify(line)}\n`));
    this.last = added.catch(() => undefined);
    return added.catch((error: unknown) => {
      throw notWritten(error);
    });
  }

  /** Ends it once all that was added is on the disk, as far as it goes there. */
  async close(): Promise<void> {
    const { file } = this;
    this.file = undefined;
    await this.last;
    await file?.datasync().catch(() => undefined);
    await file?.close().catch(() => undefined);
  }
}

/** Why a job cannot note down what it did, in words. */
function notWritten(error: unknown): ShaleError {
  const problem = writeError('the journal of the job', error);
  if (problem.code !== 'disk-full') return problem;
  return new ShaleError(
    {
      code: 'disk-full',
      fact: 'The disk that holds Shale’s own data is full: what the job does could not be noted down.',
      wayOut: 'Make room on it and press Continue; what is written stays, and the job goes on at the next frame.',
    },
    { cause: error },
  );
}

function parseJson(line: string): unknown {
  try {
    return JSON.parse(line) as unknown;
  } catch {
    return undefined;
  }
}
