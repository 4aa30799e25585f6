import { mkdir, open, readFile, rename, rm, writeFile, type FileHandle } from 'node:fs/promises';
import { join } from 'node:path';
import { deserialize, serialize } from 'node:v8';
import {
  estimateSchema,
  failureSchema,
  asKeptNow,
  readFileSchema,
  writtenSchema,
  writtenBesideSchema,
  ShaleError,
  type Estimate,
  type Failure,
  type ReadFile,
  type Written,
} from '@shale/core';
import { writeError, type Stamps } from '@shale/engine';
import { z } from 'zod';

const lineSchema = z.union([
  // `kept`: an earlier job wrote it, and it stays as it is.
  z.object({ written: z.preprocess(asKeptNow, writtenSchema), kept: z.literal(true).optional() }).strict(),
  z.object({ failed: failureSchema, index: z.int() }).strict(),
  z.object({ sound: writtenBesideSchema }).strict(),
  z.object({ media: z.array(readFileSchema) }).strict(),
  z.object({ estimate: estimateSchema }).strict(),
  // A stopped job that goes on tries its failed frames again: what stood before this line is forgotten.
  z.object({ retry: z.array(z.int()) }).strict(),
  // Results that were written are made again, in place of what has their name.
  z.object({ again: z.array(z.int()) }).strict(),
  // The checksum of a sound that an earlier job wrote beside stills: a new one takes its place.
  z.object({ soundBefore: z.string() }).strict(),
  // A person let it go on with source files that changed since the plan.
  z.object({ takesChanged: z.literal(true) }).strict(),
]);

export type JournalLine = z.infer<typeof lineSchema>;

/** What is settled of a job: written and failed results by index. */
export interface Settled {
  written: Map<number, Written>;
  failed: Map<number, Failure>;
  /** Results that were tried again: their sources may have been mended meanwhile. */
  retried: Set<number>;
  /** Results that are made again in place of what the job wrote. */
  again: Set<number>;
  /** Results that an earlier job wrote and that stay as they are. */
  kept: Set<number>;
  /** Whether source files that changed are taken. */
  takesChanged: boolean;
  /** The clips and the sound that all results are made of. */
  media: ReadFile[];
  /** The sound that was written beside stills. */
  sound?: z.infer<typeof writtenBesideSchema>;
  /** Checksum of one that was written before. */
  soundBefore?: string;
  /** What was thought of it before it ran. */
  estimate?: Estimate;
}

export const nothingSettled = (): Settled => ({
  written: new Map(),
  failed: new Map(),
  retried: new Set(),
  again: new Set(),
  kept: new Set(),
  takesChanged: false,
  media: [],
});

/** A job's results, a line each as they come, so that a server that stopped in the middle knows where it was. */
export class Journal {
  private file: FileHandle | undefined;
  private last: Promise<void> = Promise.resolve();
  /** Lines that go with the next write, and that write. */
  private waiting = '';
  private next: Promise<void> | undefined;

  constructor(
    private readonly folder: string,
    private readonly job: string,
  ) {}

  private get path(): string {
    return join(this.folder, `${this.job}.ndjson`);
  }

  private get stampsPath(): string {
    return join(this.folder, `${this.job}.stamps`);
  }

  /** Reads what is settled. A last line that was cut off by a crash is left out: its frame is done again. */
  async read(): Promise<Settled> {
    const settled = nothingSettled();
    const text = await readFile(this.path, 'utf8').catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return '';
      throw error;
    });
    for (const line of text.split('\n')) {
      const parsed = lineSchema.safeParse(parseJson(line));
      if (!parsed.success) continue;
      if ('written' in parsed.data) {
        settled.written.set(parsed.data.written.index, parsed.data.written);
        settled.failed.delete(parsed.data.written.index);
        settled.again.delete(parsed.data.written.index);
        if (parsed.data.kept) settled.kept.add(parsed.data.written.index);
        else settled.kept.delete(parsed.data.written.index);
      } else if ('sound' in parsed.data) settled.sound = parsed.data.sound;
      else if ('media' in parsed.data) settled.media = parsed.data.media;
      else if ('again' in parsed.data)
        for (const index of parsed.data.again) {
          settled.written.delete(index);
          settled.kept.delete(index);
          settled.again.add(index);
        }
      else if ('soundBefore' in parsed.data) settled.soundBefore = parsed.data.soundBefore;
      else if ('takesChanged' in parsed.data) settled.takesChanged = true;
      else if ('estimate' in parsed.data) settled.estimate = parsed.data.estimate;
      else if ('failed' in parsed.data) {
        settled.failed.set(parsed.data.index, parsed.data.failed);
        // It was written, and is gone or another file since.
        settled.written.delete(parsed.data.index);
        settled.kept.delete(parsed.data.index);
      } else
        for (const index of parsed.data.retry) {
          settled.failed.delete(index);
          settled.retried.add(index);
        }
    }
    return settled;
  }

  /** What the sources' files were when the job began; undefined where that was not kept. */
  async stamps(): Promise<Stamps | undefined> {
    try {
      return deserialize(await readFile(this.stampsPath)) as Stamps;
    } catch {
      return undefined;
    }
  }

  /** @throws ShaleError `disk-full` and its like */
  async keepStamps(stamps: Stamps): Promise<void> {
    const half = `${this.stampsPath}.part`;
    try {
      await writeFile(half, serialize(stamps));
      await rename(half, this.stampsPath);
    } catch (error) {
      await rm(half, { force: true }).catch(() => undefined);
      throw notWritten(error);
    }
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

  /**
   * Notes a line, after those before it, and flushes it; lines that come while others are on their way go together.
   * @throws ShaleError `disk-full` and its like: the line is not in the journal
   */
  add(line: JournalLine): Promise<void> {
    // Half a line may stand before, from a crash or a full disk: each begins on one of its own.
    this.waiting += `\n${JSON.stringify(line)}\n`;
    this.next ??= this.last.then(() => {
      const text = this.waiting;
      this.waiting = '';
      this.next = undefined;
      return this.write(text);
    });
    const added = this.next;
    this.last = added.catch(() => undefined);
    return added.catch((error: unknown) => {
      throw notWritten(error);
    });
  }

  private async write(text: string): Promise<void> {
    await this.file?.appendFile(text);
    await this.file?.datasync();
  }

  /** Ends it once all that was added is on the disk, as far as it goes there. */
  async close(): Promise<void> {
    await this.last;
    const { file } = this;
    this.file = undefined;
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
      fact: 'The disk that holds Shale’s own data is full: the job could not record its progress.',
      wayOut: 'Free some space on it and press Continue; written files stay, and the job continues at the next frame.',
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
