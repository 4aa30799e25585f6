import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { renameModeSchema } from '@shale/core';
import { z } from 'zod';
import type { Disk } from '../disk/disk.ts';

/** `remove` takes copies or links away again: the undoing of those. */
export const workModeSchema = z.enum([...renameModeSchema.options, 'remove']);
export type WorkMode = z.infer<typeof workModeSchema>;

/** The process that carries a rename out: its number and the tick in which it began, which no later process shares. */
export const ownerSchema = z.object({ pid: z.int(), began: z.string() });
export type Owner = z.infer<typeof ownerSchema>;

const headSchema = z.object({
  rename: z.literal(1),
  id: z.string(),
  mode: workModeSchema,
  /** Paths of the roots, and their ids where a server has them. */
  from: z.string(),
  into: z.string(),
  roots: z.tuple([z.string(), z.string()]),
  /** Whether files go to another disk: as copies, whose originals go last. */
  across: z.boolean(),
  /** Folders that do not exist yet and are made, or are ours to take away, the outer first; absolute. */
  folders: z.array(z.string()),
  /** The rename that this one undoes. */
  undoes: z.string().nullable(),
  sentence: z.string(),
  /** ISO 8601. */
  begun: z.string(),
  owner: ownerSchema,
  files: z.int(),
});
export type Head = z.infer<typeof headSchema>;

/** From where, to where (below the roots), and who it was before. */
const fileSchema = z.tuple([z.string(), z.string(), z.string()]);

/**
 * How far it came. `ready`: all is noted, nothing touched. `copied`: who the finished copies are, under their temporary
 * names. `named`: all have their final names. `done`, `back` (taken back), `undone` (by a later rename), `stuck`.
 */
const stepSchema = z.discriminatedUnion('step', [
  z.object({ step: z.literal('ready') }),
  z.object({ step: z.literal('copied'), copies: z.array(z.string()) }),
  z.object({ step: z.literal('named') }),
  z.object({ step: z.literal('done'), at: z.string() }),
  z.object({ step: z.literal('back'), at: z.string(), why: z.string() }),
  z.object({ step: z.literal('undone'), at: z.string(), by: z.string() }),
  z.object({ step: z.literal('stuck'), at: z.string(), why: z.string() }),
]);
export type Step = z.infer<typeof stepSchema>;

/** A rename as its journal has it. */
export interface Record {
  head: Head;
  /** From, to, and who it was: paths below the roots. */
  files: [from: string, to: string, who: string][];
  steps: Step[];
}

/** Whether nothing is left to do: neither to finish nor to take back. */
export const isEnded = ({ steps }: Pick<Record, 'steps'>): boolean =>
  steps.some(({ step }) => step === 'done' || step === 'back' || step === 'stuck');

export const stepOf = <S extends Step['step']>({ steps }: Pick<Record, 'steps'>, step: S) =>
  steps.findLast((one): one is Extract<Step, { step: S }> => one.step === step);

/** The tick in which a process began, as Linux counts; undefined where there is no such process. */
function beganOf(pid: number): string | undefined {
  try {
    const text = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return text.slice(text.lastIndexOf(')') + 2).split(' ')[19];
  } catch {
    return undefined;
  }
}

export const thisProcess: Owner = { pid: process.pid, began: beganOf(process.pid) ?? '' };
export const isAlive = ({ pid, began }: Owner): boolean => beganOf(pid) === began;

const pathOf = (folder: string, id: string): string => join(folder, `${id}.ndjson`);

/**
 * Writes down all that is meant to be done, before anything is: a line for the rename, one for each file, and `ready` once all
 * of it is on the disk.
 */
export async function beginRecord(disk: Disk, folder: string, head: Head, files: Record['files']): Promise<void> {
  let text = `${JSON.stringify(head)}\n`;
  for (const one of files) text += `${JSON.stringify(one)}\n`;
  await disk.append(pathOf(folder, head.id), text);
  await noteStep(disk, folder, head.id, { step: 'ready' });
}

/** Writes down how far it came; it is on the disk when this returns. A line begins anew after one that a crash cut off. */
export const noteStep = (disk: Disk, folder: string, id: string, step: Step): Promise<void> =>
  disk.append(pathOf(folder, id), `\n${JSON.stringify(step)}\n`);

const parse = (line: string): unknown => {
  try {
    return JSON.parse(line) as unknown;
  } catch {
    return undefined;
  }
};

/** Reads a journal. @returns undefined where it was cut off before all was noted: then nothing was touched */
export async function readRecord(disk: Disk, folder: string, id: string): Promise<Record | undefined> {
  const lines = (await disk.read(pathOf(folder, id))).split('\n');
  const head = headSchema.safeParse(parse(lines[0]!));
  if (!head.success) return undefined;
  const record: Record = { head: head.data, files: [], steps: [] };
  for (const line of lines.slice(1)) {
    if (line === '') continue;
    const value = parse(line);
    const file = fileSchema.safeParse(value);
    if (file.success) record.files.push(file.data);
    const step = file.success ? undefined : stepSchema.safeParse(value);
    if (step?.success) record.steps.push(step.data);
  }
  return record.steps.length > 0 && record.files.length === record.head.files ? record : undefined;
}

/** The ids of all journals of a folder, in no order. */
export const listRecords = async (disk: Disk, folder: string): Promise<string[]> =>
  (await disk.list(folder)).flatMap((name) => (name.endsWith('.ndjson') ? [name.slice(0, -'.ndjson'.length)] : []));
