import { readFile } from 'node:fs/promises';
import { openDesk, type Desk } from '@shale/desk';
import { ShaleError } from '@shale/core';
import { handedSchema, type Handed } from '@shale/contract';

/** Milliseconds in which a desk has to answer. */
const patience = 30_000;

/** The upload desk that files are handed to: the one that ships, opened when it is wanted first, or one at an address. */
export class UploadDesk {
  private own: Promise<Desk> | undefined;

  /** @param address of another desk, without a slash at the end */
  constructor(private readonly address?: string) {}

  /** Hands a file over. @param name the counter's @throws ShaleError `desk-away` */
  async hand(path: string, name: string): Promise<Handed> {
    const body = await readFile(path);
    const url = `${await this.find()}/counters/${encodeURIComponent(name)}`;
    try {
      const answer = await fetch(url, {
        method: 'POST',
        body,
        headers: { 'content-type': 'application/octet-stream' },
        signal: AbortSignal.timeout(patience),
      });
      return handedSchema.parse(await answer.json());
    } catch (error) {
      throw new ShaleError(
        {
          code: 'desk-away',
          fact: 'The upload desk gave an unexpected answer.',
          wayOut: this.address ? `Check the address in SHALE_DESK: it is ${this.address}.` : 'Send it again.',
        },
        { cause: error },
      );
    }
  }

  async close(): Promise<void> {
    await (await this.own)?.close();
  }

  private async find(): Promise<string> {
    if (this.address) return this.address;
    this.own ??= openDesk();
    return (await this.own).url;
  }
}
