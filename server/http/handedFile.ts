import type { z } from 'zod';
import { ShaleError } from '@shale/core';

/** Reads a file that was handed from one Shale to another, or a part of one. @throws ShaleError naming the field */
export function readFileOf<S extends z.ZodType>(
  schema: S,
  value: unknown,
  what: string,
  code = 'bad-file',
): z.output<S> {
  const result = schema.safeParse(value);
  if (result.success) return result.data;
  const [issue] = result.error.issues;
  const field = issue!.path.join('.');
  throw new ShaleError({
    code,
    fact: `The ${what}'s field "${field || 'at its top'}" does not fit: ${issue!.message}.`,
    wayOut: 'Correct the field; docs/naming.md and docs/specs.md list what each may hold. Nothing was changed.',
    subject: field,
  });
}
