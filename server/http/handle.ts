import type { Express, Request, Response } from 'express';
import { z } from 'zod';
import { readWith, ShaleError } from '@shale/core';
import { parameterNames, pathParameters, type ParametersOf, type Route } from '@shale/contract';

type Value<T> = Exclude<T, undefined> extends z.ZodType ? z.output<Exclude<T, undefined>> : undefined;
type Answer<T> = Exclude<T, undefined> extends z.ZodType ? z.input<Exclude<T, undefined>> : void;

/** What a handler gets: path parameters, query and body as their schemas read them. */
export interface Asked<R extends Route> {
  params: ParametersOf<R['path']>;
  query: Value<R['query']>;
  body: Value<R['body']>;
  /** Aborted once its asker has gone: nobody waits for the answer any more. */
  signal: AbortSignal;
  /** Who asks, as far as a connection tells: askers take turns. */
  asker: object;
  request: Request;
  response: Response;
}

const parse = (schema: z.ZodType | undefined, value: unknown, where: string): unknown =>
  schema &&
  readWith(schema, value, {
    code: 'bad-request',
    what: `The request’s ${where}`,
    wayOut: 'Correct it; /api/openapi.json tells what fits.',
  });

/** Fields that a body may have at the most: naming each of a million that do not belong takes seconds. */
const mostFields = 1000;

function refuseMany(body: unknown): void {
  if (typeof body !== 'object' || body === null || Array.isArray(body)) return;
  let count = 0;
  for (const _ in body) {
    count += 1;
    if (count <= mostFields) continue;
    throw new ShaleError({
      code: 'bad-request',
      fact: `The request’s body has more than ${mostFields.toLocaleString('en-GB')} fields.`,
      wayOut: 'Correct it; /api/openapi.json tells what fits.',
    });
  }
}

/** The schema of a path's parameters. */
const parametersIn = (path: string): z.ZodType =>
  z.object(Object.fromEntries(parameterNames(path).map((name) => [name, pathParameters[name]])));

/** Binds an operation of the contract to its handler; a route with a response sends what the handler returns. */
export function handle<R extends Route>(
  app: Express,
  route: R,
  work: (asked: Asked<R>) => Promise<Answer<R['response']>> | Answer<R['response']>,
): void {
  const parameters = parametersIn(route.path);
  app[route.method](`/api${route.path}`, async (request: Request, response: Response) => {
    const params = parse(parameters, request.params, 'path') as ParametersOf<R['path']>;
    const query = parse(route.query, request.query, 'query') as Value<R['query']>;
    refuseMany(request.body);
    const body = parse(route.body, request.body ?? {}, 'body') as Value<R['body']>;
    const gone = new AbortController();
    response.once('close', () => !response.writableFinished && gone.abort());
    const answer = await work({ params, query, body, signal: gone.signal, asker: request.socket, request, response });
    if (route.response && !gone.signal.aborted)
      response
        .status(route.status ?? response.statusCode)
        .set('cache-control', 'no-store')
        .json(answer);
  });
}
