import { openApi } from './openapi.ts';
import { problemsOf } from './problems.ts';
import { statusOf } from './problemStatuses.ts';
import type { Route } from './route.ts';
import { routes } from './routes.ts';

type Operation = {
  operationId: string;
  parameters: { name: string; in: string }[];
  responses: Record<string, { content: object }>;
};

test('every operation of the table is described, with its parameters and how it refuses', () => {
  const { paths } = openApi('1.0.0') as { paths: Record<string, Record<string, Operation>> };
  for (const [name, route] of Object.entries(routes) as [string, Route][]) {
    const described = paths[`/api${route.path.replace(/:(\w+)/g, '{$1}')}`]![route.method]!;
    expect(described.operationId).toBe(name);
    for (const [, parameter] of route.path.matchAll(/:(\w+)/g)) {
      expect(described.parameters).toContainEqual(expect.objectContaining({ name: parameter, in: 'path' }));
    }
    expect(described.responses.default!.content).toHaveProperty('application/problem+json');
    expect(described.responses).toHaveProperty(String(route.status ?? 200));
    // Whatever takes an id may not find it; whatever is asked something may be asked wrongly.
    expect('404' in described.responses).toBe(problemsOf(route).some((code) => statusOf(code) === 404));
    expect('400' in described.responses).toBe(route.path.includes(':') || !!route.body || !!route.query);
    expect(described.responses).toHaveProperty('503');
  }
});

test('no two operations share a method and a path', () => {
  const keys = (Object.values(routes) as Route[]).map(({ method, path }) => `${method} ${path.replace(/:\w+/g, ':')}`);
  expect(new Set(keys).size).toBe(keys.length);
});

test('the document is plain JSON', () => {
  const document = openApi('1.0.0');
  expect(JSON.parse(JSON.stringify(document))).toEqual(document);
});

test('a problem has one status; one that is not listed is the caller’s mistake', () => {
  expect([statusOf('source-not-found'), statusOf('disk-full'), statusOf('anything'), statusOf('toString')]).toEqual([
    404, 507, 400, 400,
  ]);
  const { paths } = openApi('1.0.0') as { paths: Record<string, Record<string, { responses: Json }>> };
  expect(paths['/api/jobs']!.post!.responses['409']!.description).toBe(
    'folder-gone, source-changed, plan-changed, output-exists, output-claimed, folder-in-use',
  );
  expect(paths['/api/sources/{source}']!.get!.responses['404']!.description).toBe('source-not-found');
});
type Json = Record<string, { description: string }>;
