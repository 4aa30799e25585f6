// How a worker process is started: for the pool, and for the command line's beginning, which starts some while it loads itself.
import { fork } from 'node:child_process';

/** @param {string} file the worker's program @param {string[]} execArgv @param {NodeJS.ProcessEnv} env what is another in its environment */
export const forkWorker = (file, execArgv = [], env = {}) =>
  fork(file, [], {
    execArgv,
    env: { ...process.env, UV_THREADPOOL_SIZE: '4', ...env },
    serialization: 'advanced',
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  });
