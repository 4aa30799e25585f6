import { z } from 'zod';
import { parseSpec } from '../spec/parse.ts';
import type { Spec } from '../spec/schema.ts';

/**
 * What one spec says otherwise than another: fields by section and name, `write.format`, or by name alone where a field has no
 * section, `frames`. Lists are taken whole.
 */
export const ownSchema = z.record(z.string().regex(/^[a-z][a-zA-Z]*(\.[a-z][a-zA-Z]*)?$/), z.unknown());
export type Own = z.infer<typeof ownSchema>;

const isSection = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** The fields of a spec, by section and name. */
function fieldsOf(spec: Spec): Map<string, unknown> {
  const fields = new Map<string, unknown>();
  for (const [section, value] of Object.entries(spec))
    if (isSection(value)) for (const [name, one] of Object.entries(value)) fields.set(`${section}.${name}`, one);
    else fields.set(section, value);
  return fields;
}

/** What `wanted` says otherwise than `common`. */
export function ownOf(common: Spec, wanted: Spec): Own {
  const before = fieldsOf(common);
  const own: Own = {};
  for (const [field, value] of fieldsOf(wanted))
    if (JSON.stringify(value) !== JSON.stringify(before.get(field))) own[field] = value;
  return own;
}

/** A spec with some of its fields said otherwise. @throws ShaleError `bad-spec` where a field or value is not one of a spec's */
export function withOwn(common: Spec, own: Own): Spec {
  if (Object.keys(own).length === 0) return common;
  const next: Record<string, unknown> = { ...common };
  for (const [field, value] of Object.entries(own)) {
    const [section, name] = field.split('.') as [string, string | undefined];
    if (name === undefined) next[section] = value;
    else next[section] = { ...(next[section] as object | undefined), [name]: value };
  }
  return parseSpec(next);
}
