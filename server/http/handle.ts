import type { Express, Request, Response } from 'express';
import { z } from 'zod';
import { ShaleError } from '@shale/core';
import { parameterNames, pathParameters, type ParametersOf, type Route } from '@shale/contract';

type Value<T> = Exclude<T, undefined> extends z.ZodType ? z.output<Exclude<T, undefined>> : undefined;
type Answer<T> = Exclude<T, undefined> extends z.ZodType ? z.input<Exclude<T, undefined>> : void;

/** What a handler gets: path parameters, query and body as their schemas read them. */
export interface Asked<R extends Route> {
  params: ParametersOf<R['path']>;
  query: Value<R['query']>;
  body: Value<R['body']>;
  request: Request;
  response: Response;
}

function parse(schema: z.ZodType | undefined, value: unknown, where: string): unknown {
  if (!schema) return undefined;
  const result = schema.safeParse(value);
  if (result.success) return result.data;
  const issue = result.error.issues[0]!;
  const field = issue.path.join('.') || where;
  throw new ShaleError({
    code: 'bad-request',
    fact: `The ${where}'s field "${field}" does not fit: ${issue.message}.`,
    wayOut: 'Correct it; /api/openapi.json tells what fits.',
    subject: field,
  });
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
    const body = parse(route.body, request.body ?? {}, 'body') as Value<R['body']>;
    const answer = await work({ params, query, body, request, response });
    if (route.response)
      response
        .status(route.status ?? response.statusCode)
        .set('cache-control', 'no-store')
        .json(answer);
  });
}
