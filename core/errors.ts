/** What every refusal of Shale carries: a stable code, the fact, and the way out. */
export interface Problem {
  /** Stable, kebab-case; scripts may rely on it. */
  code: string;
  /** One plain sentence: what is so, naming the file where there is one. */
  fact: string;
  /** One plain sentence: what to do about it. */
  wayOut: string;
  /** The file, folder or field that it is about, as the person knows it. */
  subject?: string;
}

/** An error that a person can act on. Anything else that is thrown is a fault of Shale's own. */
export class ShaleError extends Error implements Problem {
  readonly code: string;
  readonly fact: string;
  readonly wayOut: string;
  readonly subject?: string;

  constructor(problem: Problem, options?: ErrorOptions) {
    super(`${problem.fact} ${problem.wayOut}`, options);
    this.name = 'ShaleError';
    this.code = problem.code;
    this.fact = problem.fact;
    this.wayOut = problem.wayOut;
    if (problem.subject !== undefined) this.subject = problem.subject;
  }
}

/** The problem inside anything thrown; a fault of our own becomes `internal` and keeps its message as the fact. */
export function problemOf(error: unknown): Problem {
  if (error instanceof ShaleError) {
    return { code: error.code, fact: error.fact, wayOut: error.wayOut, subject: error.subject };
  }
  const message = error instanceof Error ? error.message : String(error);
  return { code: 'internal', fact: message, wayOut: 'This is a fault in Shale; its log has the details.' };
}
