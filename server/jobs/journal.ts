import { createWriteStream, type WriteStream } from 'node:fs';
import { mkdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import {
  estimateSchema,
  failureSchema,
  writtenSchema,
  writtenSoundSchema,
  type Estimate,
  type Failure,
  type Written,
} from '@shale/core';
import { z } from 'zod';

const lineSchema = z.union([
  z.object({ written: writtenSchema }).strict(),
  z.object({ failed: failureSchema, index: z.int() }).strict(),
  z.object({ sound: writtenSoundSchema }).strict(),
  z.object({ estimate: estimateSchema }).strict(),
  // A stopped job that goes on tries its failed frames again: what stood before this line is forgotten.
  z.object({ retry: z.array(z.int()) }).strict(),
]);

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
  private stream: WriteStream | undefined;

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
    const text = await readFile(this.path, 'utf8').catch(() => '');
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

  async open(): Promise<void> {
    await mkdir(this.folder, { recursive: true });
    this.stream = createWriteStream(this.path, { flags: 'a' });
    // A crash may have left half a line: the next begins on one of its own.
    this.stream.write('\n');
  }

  add(line: z.infer<typeof lineSchema>): void {
    this.stream?.write(`${JSON.stringify(line)}\n`);
  }

  close(): Promise<void> {
    return new Promise((resolve) => (this.stream ? this.stream.end(() => resolve()) : resolve()));
  }
}

function parseJson(line: string): unknown {
  try {
    return JSON.parse(line) as unknown;
  } catch {
    return undefined;
  }
}
