import { batchSchema, type Batch } from '@shale/core';
import type { Makes } from '@shale/contract';

const key = (selection: string): string => `shale-batch-${selection}`;

/** What is wanted of a list of sources. */
export interface Wish {
  batch: Batch;
  makes: Makes;
}

/** Keeps what is wanted of a list of sources until the window closes; a store that is full keeps what it had. */
export function keepBatch(selection: string, wish: Wish): void {
  try {
    sessionStorage.setItem(key(selection), JSON.stringify(wish));
  } catch {
    // The page works on, and begins anew when it is loaded.
  }
}

/** What was wanted of it in this window; undefined where nothing was, or where it cannot be read any more. */
export function keptBatch(selection: string): Wish | undefined {
  try {
    const { batch, makes } = JSON.parse(sessionStorage.getItem(key(selection)) ?? 'null') as Wish;
    return { batch: batchSchema.parse(batch), makes: makes === 'new' ? 'new' : 'all' };
  } catch {
    return undefined;
  }
}
