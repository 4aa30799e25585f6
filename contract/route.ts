import { z } from 'zod';

/** An id in a path or a body. */
export const id = z.string().regex(/^[\w-]{1,60}$/);

/** A whole number in a path: of a frame, or the number of a row. */
const whole = z
  .string()
  .regex(/^-?\d{1,9}$/)
  .transform(Number);

/** What each parameter of a path may be, wherever it stands. */
export const pathParameters = {
  code: id,
  frame: whole,
  job: id,
  proof: id,
  receiver: id,
  rename: id,
  root: id,
  source: id,
  spec: whole,
  stack: whole,
} as const;

type ParameterName = keyof typeof pathParameters;

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
  produces?: string;
  status?: number;
}

/** The operation itself, typed. */
export const route = <const P extends string, B extends z.ZodType, R extends z.ZodType, Q extends z.ZodType>(
  value: Route<P, B, R, Q> & { path: KnownPath<P> },
): Route<P, B, R, Q> => value;

/** The names of a path's parameters, in their order. */
export const parameterNames = (path: string): ParameterName[] =>
  [...path.matchAll(/:(\w+)/g)].map(([, name]) => name as ParameterName);

/** A source and what is wanted of it. */
export const wantedSchema = z.object({ source: id, spec: z.unknown() }).strict();
