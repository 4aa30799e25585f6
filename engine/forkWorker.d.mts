import type { ChildProcess } from 'node:child_process';

export function forkWorker(file: string, execArgv?: string[], env?: NodeJS.ProcessEnv): ChildProcess;
