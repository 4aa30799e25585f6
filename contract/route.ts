import { z } from 'zod';
import type { ProblemCode } from './problemStatuses.ts';

/** An id in a path or a body. */
export const id = z.string().regex(/^[\w-]{1,60}$/);

/** A whole number in a path: of a frame, or the number of a row. */
const whole = z
  .string()
  .regex(/^-?\d{1,9}$/)
  .transform(Number);

/** What each parameter of a path may be, wherever it stands. */
export const pathParameters = {
  batch: id,
  code: id,
  frame: whole,
  job: id,
  proof: id,
  receiver: id,
  rename: id,
  root: id,
  search: id,
  selection: id,
  source: id,
  spec: whole,
  stack: whole,
  standing: id,
  try: z
    .string()
    .regex(/^\d{1,3}$/)
    .transform(Number),
} as const;

export type ParameterName = keyof typeof pathParameters;

/** The names of the parameters in a path: `:source` and `:frame` of `/sources/:source/frames/:frame`. */
type NamesIn<P extends string> = P extends `${string}:${infer First}/${infer Rest}`
  ? First | NamesIn<`/${Rest}`>
  : P extends `${string}:${infer Last}`
    ? Last
    : never;

/** The parameters of a path, as they are read. */
export type ParametersOf<P extends string> = {
  [K in NamesIn<P> & ParameterName]: z.output<(typeof pathParameters)[K]>;
};

/** A path whose parameters are all known. */
type KnownPath<P extends string> = NamesIn<P> extends ParameterName ? P : never;

/** What answers are about: a page asks anew for what an operation changes. */
export const cacheTags = [
  'Root',
  'Source',
  'Check',
  'Rule',
  'Job',
  'Receipt',
  'Spec',
  'Rename',
  'Stack',
  'Receiver',
  'Cadence',
  'Markers',
  'Plan',
  'Standing',
  'Health',
] as const;
export type CacheTag = (typeof cacheTags)[number];

/** One operation of the HTTP API. Bodies are JSON; `:name` in the path is one of {@link pathParameters}. */
export interface Route<
  P extends string = string,
  B extends z.ZodType = z.ZodType,
  R extends z.ZodType = z.ZodType,
  Q extends z.ZodType = z.ZodType,
> {
  method: 'get' | 'post' | 'put' | 'delete';
  /** Below `/api`. */
  path: P;
  summary: string;
  body?: B;
  query?: Q;
  /** Absent where the answer is not JSON; `produces` says what it is then. */
  response?: R;
  produces?: string | readonly string[];
  status?: number;
  /** What the answer is about. */
  about?: readonly CacheTag[];
  /** What is another afterwards. */
  changes?: readonly CacheTag[];
  /** With which problems it may refuse, beside those of its parameters and those that any operation may. */
  problems?: readonly ProblemCode[];
}

/** What a client sends to an operation. */
export type Sent<R extends Route> = (keyof ParametersOf<R['path']> extends never
  ? { params?: undefined }
  : { params: { [K in keyof ParametersOf<R['path']>]: string | number } }) & {
  query?: Exclude<R['query'], undefined> extends z.ZodType ? z.input<Exclude<R['query'], undefined>> : undefined;
  body?: Exclude<R['body'], undefined> extends z.ZodType ? z.input<Exclude<R['body'], undefined>> : undefined;
};

/** What a client gets from it. */
export type AnswerOf<R extends Route> =
  Exclude<R['response'], undefined> extends z.ZodType ? z.output<Exclude<R['response'], undefined>> : undefined;

/** The operation itself, typed. */
export const route = <const P extends string, B extends z.ZodType, R extends z.ZodType, Q extends z.ZodType>(
  value: Route<P, B, R, Q> & { path: KnownPath<P> },
): Route<P, B, R, Q> => value;

/** The names of a path's parameters, in their order. */
export const parameterNames = (path: string): ParameterName[] =>
  [...path.matchAll(/:(\w+)/g)].map(([, name]) => name as ParameterName);

/** A source and what is wanted of it. */
export const wantedSchema = z.object({ source: id, spec: z.unknown() }).strict();
