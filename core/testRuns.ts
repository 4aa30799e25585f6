/** Whether tests run at their full length: `npm test -- --long`. */
export const isLong =
  (globalThis as { process?: { env: Record<string, string | undefined> } }).process?.env.SHALE_LONG === '1';

/** How often a property is tried: 300 times at most, as often as is said where tests run long. For tests. */
export const runs = (full: number): number => (isLong ? full : Math.min(full, 300));
