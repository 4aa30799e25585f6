import type { ChildProcess } from 'node:child_process';

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
