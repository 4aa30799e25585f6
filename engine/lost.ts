import { ShaleError } from '@shale/core';

/** A process that did the work is not there any more. */
export const gone = (): ShaleError =>
  new ShaleError({
    code: 'worker-crashed',
    fact: 'The worker process ended unexpectedly.',
    wayOut: 'It restarts by itself; a frame that crashes it twice is left out and named.',
  });

/** A process had to give way, through no fault of what it worked on. */
export const replaced = (): ShaleError =>
  new ShaleError({
    code: 'worker-replaced',
    fact: 'The worker process was needed for other work.',
    wayOut: 'Ask again.',
  });

/** Whether a task ended with its process: it may be asked for again. */
export const crashed = (error: unknown): boolean =>
  error instanceof ShaleError && (error.code === 'worker-crashed' || error.code === 'worker-replaced');
