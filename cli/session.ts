import type { Problem } from '@shale/core';
import type { WorkerPool } from '@shale/engine';

/** What a command works with, and where it speaks. */
export interface Session {
  pool: WorkerPool;
  /** What was asked for: rows, JSON. */
  out: (text: string) => void;
  /** What a person is told beside it. */
  err: (text: string) => void;
  /** Where journals of renames lie: those of the server, so that either settles and undoes what the other began. */
  journals: string;
  /** Where it is kept what was made of what, so that only what is new is made. */
  made: string;
  /** Whether a person watches: progress is shown then. */
  watched: boolean;
  /** Aborted when it is to stop; a command that does not ask for it is ended by the system. */
  readonly signal: AbortSignal;
}

/** Exit codes: 0 done, 1 some frames failed, 2 refused before anything was written. */
export const refused = 2;

/** Tells what is wrong, or may be. */
export function tell({ err }: Session, ...problems: readonly Problem[]): void {
  for (const { code, fact, wayOut } of problems) err(`shale: ${fact}\n  ${wayOut} (${code})\n`);
}

/** Tells why something is refused. @returns the exit code */
export function refuse(session: Session, ...problems: readonly Problem[]): number {
  tell(session, ...problems);
  return refused;
}
