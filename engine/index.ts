export * from './carry-out.ts';
export * from './files.ts';
export * from './frame.ts';
export * from './list.ts';
export * from './pool.ts';
export * from './preflight.ts';
export * from './scan.ts';
export * from './span.ts';
export type * from './tasks.ts';
