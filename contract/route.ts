import { z } from 'zod';

/** One operation of the HTTP API. Bodies are JSON; `:name` in the path is a parameter. */
export interface Route<
  B extends z.ZodType = z.ZodType,
  R extends z.ZodType = z.ZodType,
  Q extends z.ZodType = z.ZodType,
> {
  method: 'get' | 'post' | 'put' | 'delete';
  /** Below `/api`. */
  path: string;
  summary: string;
  body?: B;
  query?: Q;
  /** Absent where the answer is not JSON; `produces` says what it is then. */
  response?: R;
  produces?: string;
  status?: number;
}

/** The operation itself, typed. */
export const route = <B extends z.ZodType, R extends z.ZodType, Q extends z.ZodType>(
  value: Route<B, R, Q>,
): Route<B, R, Q> => value;

/** An id in a path. */
export const id = z.string().regex(/^[\w-]{1,40}$/);

/** A source and what is wanted of it. */
export const wantedSchema = z.object({ source: id, spec: z.unknown() }).strict();
