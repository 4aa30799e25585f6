import type { Problem } from '@shale/core';
import type { CompanyOf } from './company.ts';
import type { Tasks } from './tasks.ts';

/** What a pool says to its processes. */
export type ToWorker =
  // Those of a company are sent one after another.
  | { kind: 'task'; id: number; task: keyof Tasks; input: unknown; plan?: number; company?: CompanyOf }
  | { kind: 'cancel'; id: number }
  // A plan for the tasks that name it, which come without: it may be as large as many of them together.
  | { kind: 'plan'; id: number; plan: unknown }
  | { kind: 'forget'; id: number };
/** What they say to it. */
export type FromWorker =
  | { kind: 'ready' }
  | { kind: 'event'; id: number; event: unknown }
  // With the bytes of memory that the process holds.
  | { kind: 'done'; id: number; output: unknown; memory: number }
  | { kind: 'error'; id: number; problem: Problem; memory: number };
