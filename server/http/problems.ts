import type { ErrorRequestHandler } from 'express';
import { problemOf, type Problem } from '@shale/core';
import type { ProblemDetails } from '@shale/contract';

/** HTTP status by problem code; what is not listed is the caller's mistake (400), `internal` is ours (500). */
const statuses: Record<string, number> = {
  internal: 500,
  'root-not-found': 404,
  'source-not-found': 404,
  'job-not-found': 404,
  'receipt-not-found': 404,
  'spec-not-found': 404,
  'no-such-route': 404,
  'batch-not-found': 404,
  'finding-not-found': 404,
  'frame-missing': 404,
  'proof-gone': 404,
  'file-gone': 410,
  'folder-gone': 409,
  'source-changed': 409,
  'output-exists': 409,
  'output-claimed': 409,
  'plan-changed': 409,
  'markers-changed': 409,
  'plan-forgotten': 409,
  'folder-in-use': 409,
  'touched-since': 409,
  'not-undoable': 409,
  'rename-stuck': 409,
  taken: 409,
  'rename-not-found': 404,
  'receiver-not-found': 404,
  'not-stopped': 409,
  'root-read-only': 403,
  'outside-root': 403,
  'not-allowed': 403,
  'foreign-origin': 403,
  'not-writable': 403,
  'damaged-file': 422,
  'truncated-file': 422,
  'format-not-read': 422,
  'no-alpha': 422,
  'empty-file': 422,
  'unknown-format': 422,
  'worker-crashed': 422,
  'database-away': 503,
  'database-failed': 500,
  'disk-full': 507,
};

/** A problem as RFC 9457 writes it. */
export function problemDetails(problem: Problem): ProblemDetails {
  return {
    type: `/api/problems/${problem.code}`,
    title: problem.fact,
    status: statuses[problem.code] ?? 400,
    detail: `${problem.fact} ${problem.wayOut}`,
    ...problem,
  };
}

/** Writes any error as RFC 9457 problem details. */
export const answerProblem: ErrorRequestHandler = (error: unknown, _request, response, _next) => {
  // Body parsers give their errors a status of their own: broken JSON, too large a body.
  const parsing = error as { status?: number; type?: string; message: string };
  const problem =
    error instanceof URIError
      ? {
          code: 'bad-request',
          fact: 'The address has a percent sign that does not begin an encoded character.',
          wayOut: 'Encode the address as UTF-8 with %XX, and a percent sign as %25.',
        }
      : typeof parsing.status === 'number' && parsing.type
        ? {
            code: 'bad-request',
            fact: `The request's body cannot be read: ${parsing.message}.`,
            wayOut: 'Send JSON as the OpenAPI page describes it.',
          }
        : problemOf(error);
  const isOurs = problem.code === 'internal';
  // What went wrong inside is for the log: it may hold paths and statements.
  const details = problemDetails(isOurs ? { ...problem, fact: 'This failed by a fault in Shale.' } : problem);
  if (isOurs) process.stderr.write(`${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`);
  if (response.headersSent) {
    response.destroy();
    return;
  }
  response.status(details.status).type('application/problem+json').send(JSON.stringify(details));
};
