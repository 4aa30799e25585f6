import type { ChildProcess } from 'node:child_process';
import { setPriority } from 'node:os';

/** Has a process stand back from its beginning: loading takes half a second of a core. */
export function lower({ pid }: ChildProcess, nice: number): void {
  if (pid === undefined || nice === 0) return;
  try {
    setPriority(pid, nice);
  } catch {
    // It ended already: that comes as its `exit`.
  }
}
