import { toJSONSchema, type z } from 'zod';
import { specSchema } from '@shale/core';
import { problemDetailsSchema, routes, type Route } from '@shale/contract';
import { Ground } from '../testing/ground.ts';
import { Served } from '../testing/served.ts';

// Whatever is asked of whichever operation, the answer is a refusal in words: never "internal", and the server goes on.

let ground: Ground;
let served: Served;
let pan: string;
/** Bodies of hundreds of thousands of entries, as text. */
let endless: string[];
beforeAll(async () => {
  // Made before anything is asked: while they are made a connection that rests is closed, and this process does not see it.
  const entries = Object.fromEntries(Array.from({ length: 300_000 }, (_, at) => [`k${at}`, 1]));
  const many = { sources: Array.from({ length: 1_000_000 }, () => 1), word: {} };
  endless = [many, { entries }, entries].map((body) => JSON.stringify(body));
  ground = await Ground.make();
  await ground.put('shots', 'yard', 'pan', [1001, 1002]);
  await ground.roots.scan('shots');
  served = await Served.on(ground);
  pan = (await ground.source('shots', 'yard', 'pan.####.png')).id;
});
afterAll(async () => {
  await served.close();
  await ground.leave();
});

type Json = null | boolean | number | string | Json[] | { [key: string]: Json };

/** Values that belong nowhere, or seldom. */
const odd: Json[] = [
  null,
  true,
  -1,
  1e308,
  0.5,
  '',
  '..',
  '../../etc/passwd',
  'a\u0000b',
  '\ud800',
  'x'.repeat(300),
  `${'deep/'.repeat(200)}x`,
  [],
  {},
  [null],
  { constructor: { prototype: 1 }, __proto__: null },
];

interface Shape {
  type?: string;
  properties?: Record<string, Shape>;
  required?: string[];
  items?: Shape;
  anyOf?: Shape[];
  oneOf?: Shape[];
  allOf?: Shape[];
  enum?: Json[];
  const?: Json;
  $ref?: string;
  $defs?: Record<string, Shape>;
}

/** A value that a schema would take, or nearly: where it says no more than a type, the plainest of that. */
function fitting(shape: Shape, defs: Record<string, Shape> = {}, depth = 0): Json {
  if (depth > 12) return null;
  const next = (one: Shape) => fitting(one, defs, depth + 1);
  if (shape.$ref) return next(defs[shape.$ref.split('/').at(-1)!] ?? {});
  if (shape.const !== undefined) return shape.const;
  if (shape.enum) return shape.enum[0]!;
  const one = (shape.anyOf ?? shape.oneOf ?? shape.allOf)?.[0];
  if (one) return next(one);
  if (shape.type === 'object')
    return Object.fromEntries((shape.required ?? []).map((name) => [name, next(shape.properties?.[name] ?? {})]));
  if (shape.type === 'array') return [next(shape.items ?? {})];
  if (shape.type === 'string') return 'yard';
  return shape.type === 'boolean' ? true : 1;
}

const shapeOf = (schema: z.ZodType): Shape => toJSONSchema(schema, { io: 'input', unrepresentable: 'any' }) as Shape;

/** Operations whose spec is turned into nonsense field by field, down to its depths. */
const deep = new Set<Route>([routes.makePlan, routes.lookAtPlan, routes.lookAtTarget]);

const written = { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb' };
const sound = { version: 1, write: written, into: { root: 'out', folder: 'odd' } };

/** A spec that works with each field of it, and of what is in it, turned into what a schema would take and what none would. */
function* specsOf(): Generator<Json> {
  const shape = shapeOf(specSchema);
  const defs = shape.$defs ?? {};
  const few: Json[] = [null, -1, '..', `${'d'.repeat(300)}/x`, [{}], {}];
  const propertiesOf = (one: Shape): [string, Shape][] => {
    const at = one.$ref ? (defs[one.$ref.split('/').at(-1)!] ?? {}) : one;
    const all = [at, ...(at.anyOf ?? []), ...(at.oneOf ?? []), ...(at.allOf ?? [])];
    return all.flatMap((some) => Object.entries(some.properties ?? {}));
  };
  const fields = propertiesOf(shape);
  for (const [name, field] of fields) {
    for (const value of [...few, fitting(field, defs)]) yield { ...sound, [name]: value };
    const whole = (sound as Record<string, Json>)[name];
    const base = typeof whole === 'object' && whole !== null && !Array.isArray(whole) ? whole : {};
    for (const [below, inner] of propertiesOf(field))
      for (const value of [...few, fitting(inner, defs)]) yield { ...sound, [name]: { ...base, [below]: value } };
  }
}

/** The bodies to ask with: whole nonsense, and one that nearly fits with each of its fields turned into nonsense. */
function bodiesOf(route: Route): Json[] {
  if (!route.body) return [{}];
  const shape = shapeOf(route.body);
  const whole = fitting(shape, shape.$defs);
  const bodies = [...odd, whole];
  if (typeof whole !== 'object' || whole === null || Array.isArray(whole)) return bodies;
  const plain: Record<string, Json> = 'source' in whole ? { ...whole, source: pan } : whole;
  const names = new Set([...Object.keys(plain), ...Object.keys(shape.properties ?? {})]);
  for (const name of names) for (const value of odd) bodies.push({ ...plain, [name]: value });
  if ('spec' in plain && deep.has(route)) for (const spec of specsOf()) bodies.push({ ...plain, spec });
  return bodies;
}

const encoded = (value: string): string => (value === '\ud800' ? '%ED%A0%80' : encodeURIComponent(value));
const places = ['pan', '..', '%', '%E0%A4%A', '7', '-1', 'x'.repeat(300), '\ud800', 'a b', '%00'];

/** Paths of an operation with each odd parameter in turn. */
function pathsOf({ path }: Route): string[] {
  if (!path.includes(':')) return [path];
  const fill = (value: string) => path.replace(/:\w+/g, () => value);
  return [fill(pan), ...places.map((one) => fill(one.startsWith('%') ? one : encoded(one)))];
}

function queriesOf({ query }: Route): string[] {
  if (!query) return [''];
  const { properties = {} } = shapeOf(query);
  const values = ['', '-1', 'NaN', '1e400', 'x'.repeat(500), '..%2F..', '%00', '[]', '{"a":1}'];
  return ['', ...Object.keys(properties).flatMap((name) => values.map((value) => `?${name}=${value}`))];
}

const all = Object.entries(routes as unknown as Record<string, Route>).filter(([name]) => name !== 'events');

test.each(all)(
  '%s refuses what does not fit in words',
  async (_name, route) => {
    const ask = async (path: string, body: Json | undefined) => {
      const answer = await fetch(`${served.url}/api${path}`, {
        method: route.method.toUpperCase(),
        ...(route.body && body !== undefined
          ? { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }
          : {}),
      });
      const text = await answer.text();
      if (answer.status < 400) return;
      const read = problemDetailsSchema.safeParse(JSON.parse(text));
      if (!read.success) throw new Error(`${path}: ${answer.status} ${text.slice(0, 300)}`);
      const problem = read.data;
      if (answer.status >= 500 && answer.status !== 503)
        throw new Error(
          `${path} ${JSON.stringify(body)?.slice(0, 300)}: ${answer.status} ${problem.code} ${problem.fact}`,
        );
    };
    const paths = pathsOf(route);
    for (const path of paths) for (const query of queriesOf(route)) await ask(path + query, bodiesOf(route).at(-1));
    for (const body of bodiesOf(route)) await ask(paths[0]!, body);
  },
  60_000,
);

test('bodies that are no JSON, and lists without end, are refused before they cost anything', async () => {
  for (const body of ['{', 'null', '"a"', '[1,', '{"a":1}garbage', '\u0000']) {
    const answer = await fetch(`${served.url}/api/plans`, {
      method: 'POST',
      body,
      headers: { 'content-type': 'application/json' },
    });
    expect(answer.status).toBe(400);
  }
  const began = performance.now();
  for (const body of endless) {
    const answer = await fetch(`${served.url}/api/words`, {
      method: 'PUT',
      body,
      headers: { 'content-type': 'application/json' },
    });
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(answer.status).toBeLessThan(500);
    expect((await answer.text()).length).toBeLessThan(10_000);
  }
  // Seventeen seconds once; a bound that a busy machine keeps too.
  expect(performance.now() - began).toBeLessThan(40_000);
});
