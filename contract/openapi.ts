import { z } from 'zod';
import { problemsOf } from './problems.ts';
import { statusOf } from './problemStatuses.ts';
import { parameterNames, pathParameters, type Route } from './route.ts';
import { routes } from './routes.ts';
import { problemDetailsSchema } from './schemas.ts';

type Json = Record<string, unknown>;

const schemaOf = (schema: z.ZodType): Json => {
  const { $schema: _, ...rest } = z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' }) as Json;
  return rest;
};

/** How an operation refuses: a response for each status, with the codes that it has. */
function refusals(route: Route): Json {
  const content = { 'application/problem+json': { schema: schemaOf(problemDetailsSchema) } };
  const codes = new Map<number, string[]>();
  for (const code of problemsOf(route)) codes.set(statusOf(code), [...(codes.get(statusOf(code)) ?? []), code]);
  const statuses = [...codes].sort(([a], [b]) => a - b);
  return {
    ...Object.fromEntries(statuses.map(([status, some]) => [status, { description: some.join(', '), content }])),
    default: { description: 'Refused because of the request, with the code of its problem', content },
  };
}

function operation(name: string, route: Route): Json {
  const parameters = parameterNames(route.path).map((parameter) => ({
    name: parameter,
    in: 'path',
    required: true,
    schema: schemaOf(pathParameters[parameter]),
  }));
  const query = route.query ? (schemaOf(route.query) as { properties?: Record<string, Json> }).properties : undefined;
  const asked = Object.entries(query ?? {}).map(([key, schema]) => ({
    name: key,
    in: 'query',
    required: false,
    schema,
  }));
  const content = route.response
    ? { 'application/json': { schema: schemaOf(route.response) } }
    : Object.fromEntries([route.produces ?? 'application/octet-stream'].flat().map((type) => [type, {}]));
  return {
    operationId: name,
    summary: route.summary,
    parameters: [...parameters, ...asked],
    ...(route.body && {
      requestBody: { required: true, content: { 'application/json': { schema: schemaOf(route.body) } } },
    }),
    responses: {
      [route.status ?? 200]: { description: 'Done', content },
      ...refusals(route),
    },
  };
}

/** The API as an OpenAPI 3.1 document, made from the route table. */
export function openApi(version: string): Json {
  const paths: Record<string, Json> = {};
  for (const [name, route] of Object.entries(routes) as [string, Route][]) {
    const path = `/api${route.path.replace(/:(\w+)/g, '{$1}')}`;
    paths[path] = { ...paths[path], [route.method]: operation(name, route) };
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Shale', version, description: 'Finds, declares, plans, converts and checks frame sequences.' },
    paths,
  };
}
