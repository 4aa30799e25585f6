import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { isAbsolute, resolve } from 'node:path';
import { z } from 'zod';
import { ShaleError } from '@shale/core';

/** A root as the operator sets it. */
export interface RootConfig {
  id: string;
  name: string;
  /** Absolute. */
  path: string;
  writable: boolean;
  /** True for a folder of Shale's own, which it makes. */
  own?: boolean;
  /** True for a folder that was added from the page. */
  added?: boolean;
  /** Seconds without a change after which a file counts as whole; the server's own where it is not given. */
  quiet?: number;
}

/** Seconds that a file may be left alone before it counts as whole: a day at most. */
export const quietSchema = z.number().min(1).max(86_400);

/** A root as a file keeps it. */
export const rootSchema = z
  .object({
    id: z.string().regex(/^[a-z0-9-]{1,40}$/),
    name: z.string().min(1).max(80),
    path: z.string().min(1),
    writable: z.boolean().default(false),
    quiet: quietSchema.optional(),
  })
  .strict();

const configSchema = z
  .object({
    /** Days after which jobs at rest go into the archive; everything is kept where none are given. */
    keepDays: z.number().min(1).max(36_500).optional(),
    /** Below which folders may be added from the page; home and mounted disks where it says nothing, none where it is empty. */
    places: z.array(z.string().min(1)).optional(),
    roots: z.array(rootSchema).default([]),
  })
  .strict();

/**
 * What `shale.config.json` says, if there is one: its roots before those that Shale brings along, how long jobs are kept, and from where folders may be added.
 * @throws ShaleError `bad-config` naming the field
 */
export async function readRoots(
  path: string,
  own: RootConfig[],
): Promise<{ roots: RootConfig[]; keepDays: number | null; places: string[] | null }> {
  if (!existsSync(path)) return { roots: own, keepDays: null, places: null };
  const refuse = (fact: string) =>
    new ShaleError({
      code: 'bad-config',
      fact: `${path}: ${fact}`,
      wayOut: 'Correct it; docs/roots.md shows one.',
      subject: path,
    });
  let value: unknown;
  try {
    value = JSON.parse(await readFile(path, 'utf8'));
  } catch (error) {
    throw refuse(`it is not JSON: ${(error as Error).message}.`);
  }
  const parsed = configSchema.safeParse(value);
  if (!parsed.success)
    throw refuse(
      `the field "${parsed.error.issues[0]!.path.join('.')}" does not fit: ${parsed.error.issues[0]!.message}.`,
    );
  const set = parsed.data.roots.map((root) => ({
    ...root,
    path: isAbsolute(root.path) ? root.path : resolve(path, '..', root.path),
  }));
  const ids = [...set, ...own].map(({ id }) => id);
  const twice = ids.find((id, index) => ids.indexOf(id) !== index);
  if (twice) throw refuse(`the id "${twice}" is taken twice.`);
  return { roots: [...set, ...own], keepDays: parsed.data.keepDays ?? null, places: parsed.data.places ?? null };
}
