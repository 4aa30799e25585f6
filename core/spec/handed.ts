import { z } from 'zod';
import { ShaleError } from '../errors.ts';
import { namingSpecSchema } from '../naming/rules.ts';
import { specSchema } from './schema.ts';

const entry = <S extends z.ZodType>(spec: S) => z.object({ name: z.string().trim().min(1).max(80), spec }).strict();

/** Specs and naming rules as they are handed from one Shale to another, and to the command line. */
export const specFileSchema = z
  .object({ shale: z.literal('specs'), version: z.literal(1), specs: z.array(entry(specSchema)).min(1).max(200) })
  .strict();
export const stackFileSchema = z
  .object({ shale: z.literal('names'), version: z.literal(1), names: z.array(entry(namingSpecSchema)).min(1).max(200) })
  .strict();

/**
 * The one spec, or the one stack of naming rules, that a file holds: the thing itself, or a file that was handed out, of which
 * `name` picks one where it holds several. What it is not is left to whoever reads it.
 * @param what what a file of several holds, as `specs`
 * @throws ShaleError `bad-file` where the name is not in it, or none is given and there are several
 */
export function oneOfFile(value: unknown, what: 'specs' | 'names', file: string, name: string | undefined): unknown {
  const handed = value as Record<string, unknown> | null;
  if (typeof handed !== 'object' || handed?.shale === undefined) return value;
  const entries = handed[what];
  const refuse = (fact: string, wayOut: string) =>
    new ShaleError({ code: 'bad-file', fact: `${file}: ${fact}`, wayOut, subject: file });
  if (handed.shale !== what || !Array.isArray(entries) || entries.length === 0)
    throw refuse(`it holds no ${what === 'specs' ? 'spec' : 'naming rules'}.`, 'Export it on Specs & receivers.');
  const named = entries as { name?: unknown; spec?: unknown }[];
  const found =
    name === undefined ? (named.length === 1 ? named[0] : undefined) : named.find((one) => one.name === name);
  if (found) return found.spec;
  const names = named.map((one) => String(one.name)).join(', ');
  throw name === undefined
    ? refuse(`it holds ${named.length} entries: ${names}.`, 'Choose one with --named NAME.')
    : refuse(`it holds no "${name}".`, `Name one of ${names}.`);
}
