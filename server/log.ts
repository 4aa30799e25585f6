import { appendFileSync, mkdirSync, renameSync, statSync } from 'node:fs';
import { dirname } from 'node:path';

/** How grave a line is. */
export const logLevels = ['error', 'warning', 'info'] as const;
export type LogLevel = (typeof logLevels)[number];

/** Bytes of the log's file; once it has them it becomes the older one, and that is lost. */
const bound = 8 << 20;

let path: string | undefined;
let least = logLevels.length - 1;

/** Errors and warnings of late, the newest last. */
const late: { at: string; level: LogLevel; text: string }[] = [];
const mostLate = 50;

/** Errors and warnings of late, the newest first. */
export const lateLines = (): readonly { at: string; level: LogLevel; text: string }[] => [...late].reverse();

/** Says where the log is kept beside what is printed, and which lines are. @param level `SHALE_LOG`; `info` where it is none of {@link logLevels} */
export function keepLog(file: string, level: string | undefined): void {
  mkdirSync(dirname(file), { recursive: true });
  path = file;
  const at = logLevels.indexOf(level as LogLevel);
  least = at < 0 ? logLevels.length - 1 : at;
}

/**
 * Notes a line: JSON with its time, its level, what it says, and facts beside it. Errors and warnings are printed too.
 * A log that cannot be written costs nothing else.
 */
export function log(level: LogLevel, text: string, facts: Record<string, unknown> = {}): void {
  if (logLevels.indexOf(level) > least) return;
  const at = new Date().toISOString();
  if (level !== 'info') {
    process.stderr.write(`${text}\n`);
    // A stack is for the file: it may hold paths.
    late.push({ at, level, text: text.split('\n')[0]! });
    if (late.length > mostLate) late.shift();
  }
  if (path === undefined) return;
  try {
    if ((statSync(path, { throwIfNoEntry: false })?.size ?? 0) > bound) renameSync(path, `${path}.1`);
    appendFileSync(path, `${JSON.stringify({ at, level, text, ...facts })}\n`);
  } catch {
    // A full disk is told by the server's condition.
  }
}

/** An error as a log has it. */
export const textOf = (error: unknown): string =>
  error instanceof Error ? (error.stack ?? error.message) : String(error);
