import type { ErrorRequestHandler } from 'express';
import { problemOf, type Problem } from '@shale/core';
import { log, textOf } from '../log.ts';
import { statusOf, type ProblemDetails } from '@shale/contract';

/** A problem as RFC 9457 writes it. */
export function problemDetails(problem: Problem): ProblemDetails {
  return {
    type: `/api/problems/${problem.code}`,
    title: problem.fact,
    status: statusOf(problem.code),
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
  const details = problemDetails(isOurs ? { ...problem, fact: 'This failed because of a fault in Shale.' } : problem);
  if (isOurs) log('error', textOf(error));
  if (response.headersSent) {
    response.destroy();
    return;
  }
  response.status(details.status).type('application/problem+json').send(JSON.stringify(details));
};
