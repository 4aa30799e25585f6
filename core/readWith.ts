import type { z } from 'zod';
import { ShaleError } from './errors.ts';

/** How a value that does not fit is told of. */
export interface Unfit {
  code: string;
  /** What was read, as it begins a sentence: `The spec`. */
  what: string;
  wayOut: string;
}

/** Reads anything by a schema. @throws ShaleError naming the first field that does not fit */
export function readWith<S extends z.ZodType>(schema: S, value: unknown, { code, what, wayOut }: Unfit): z.output<S> {
  const result = schema.safeParse(value);
  if (result.success) return result.data;
  const [issue] = result.error.issues;
  const field = issue!.path.join('.');
  throw new ShaleError({
    code,
    fact:
      field === ''
        ? `${what} does not fit: ${issue!.message}.`
        : `${what}’s field "${field}" does not fit: ${issue!.message}.`,
    wayOut,
    subject: field || what,
  });
}
