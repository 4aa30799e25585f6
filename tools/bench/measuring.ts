import { fork, type ChildProcess } from 'node:child_process';
import { cpus } from 'node:os';
import { fileURLToPath } from 'node:url';
import type { Plan } from '@shale/core';

/** The middle one of some numbers. */
export const middle = (list: readonly number[]): number =>
  [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;

export async function seconds(work: () => Promise<unknown>): Promise<number> {
  const start = performance.now();
  await work();
  return (performance.now() - start) / 1000;
}

/** Asks a bare loop's process for something, and waits until it is done. */
export const tell = (child: ChildProcess, message: object): Promise<void> =>
  new Promise((resolve, reject) => {
    child.once('message', () => resolve());
    child.once('exit', () => reject(new Error('the bare loop ended')));
    child.send(message);
  });

/** A bare loop of the same codecs over a plan's files, in as many processes as there are cores: decode, encode, read back. */
export class BareLoop {
  private constructor(private readonly children: readonly ChildProcess[]) {}

  /** Starts the processes, each with its share of the files read and worked. @param folder where they write */
  static async of(plan: Plan, files: readonly string[], folder: string): Promise<BareLoop> {
    const { length } = cpus();
    const children = Array.from({ length }, () =>
      fork(fileURLToPath(new URL('./bare.ts', import.meta.url)), {
        execArgv: ['--import', 'tsx'],
        env: { ...process.env, UV_THREADPOOL_SIZE: '4' },
        serialization: 'advanced',
      }),
    );
    const shareOf = (at: number) => files.filter((_, index) => index % length === at);
    await Promise.all(children.map((child, at) => tell(child, { prepare: { plan, files: shareOf(at), folder } })));
    return new BareLoop(children);
  }

  /** Seconds of one time over all files. */
  go(): Promise<number> {
    return seconds(() => Promise.all(this.children.map((child) => tell(child, { go: true }))));
  }

  close(): void {
    for (const child of this.children) child.removeAllListeners('exit').disconnect();
  }
}
