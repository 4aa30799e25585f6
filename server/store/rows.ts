import { z } from 'zod';
import {
  asKeptNow,
  batchSchema,
  cadenceSchema,
  markersSchema,
  planSchema,
  problemSchema,
  readWith,
  receiptSchema,
  receiverSchema,
  ruleWordSchema,
  standingOrderSchema,
  wordSchema,
} from '@shale/core';
import { log } from '../log.ts';
import {
  batchViewSchema,
  decisionKindSchema,
  decisionSchema,
  jobPrioritySchema,
  jobSchema,
  jobStateSchema,
  offeredFileSchema,
  renameSchema,
} from '@shale/contract';

/** A value that is kept as JSON text. */
const json = <S extends z.ZodType>(schema: S) =>
  z.preprocess((text, context) => {
    if (typeof text !== 'string') return text;
    try {
      return JSON.parse(text) as unknown;
    } catch (error) {
      context.addIssue({ code: 'custom', message: `it is not JSON: ${(error as Error).message}` });
      return z.NEVER;
    }
  }, schema);

/** As the column has them, from 0. */
export const priorities = jobPrioritySchema.options;

/** Big integers may come as text, truth values as 0 and 1. */
const count = z.coerce.number();
const truth = z.union([z.boolean(), z.literal(0), z.literal(1)]).transform(Boolean);

/** What a row of each table holds, by the table's name, once it is read. */
export const rowSchemas = {
  scans: z.object({
    root: z.string(),
    number: count,
    files: count,
    bytes: count,
    finished: z.string(),
    /** What could not be read, and why. */
    notes: json(z.array(problemSchema).nullable()).transform((notes) => notes ?? []),
  }),
  arrivals: z.object({
    id: z.string(),
    /** The same for the same files. */
    key: z.string(),
    folder: z.string(),
    files: json(z.array(offeredFileSchema)),
    created: count,
    finished: truth,
  }),
  plans: z.object({ plan: json(planSchema) }),
  jobs: z
    .object({
      id: z.string(),
      plan: z.string(),
      source: z.string(),
      state: jobStateSchema,
      priority: z.union([z.literal(0), z.literal(1), z.literal(2)]).transform((at) => priorities[at]!),
      place: z.number(),
      /** How it was told of when it came to rest; null where an earlier version left it. */
      view: json(jobSchema.nullable()).catch(null),
      work_seconds: z.number(),
      problem: json(problemSchema.nullable()),
      /** Milliseconds since 1970. */
      created: count,
      started: z.string().nullable(),
      finished: z.string().nullable(),
      batch: z.string().nullable(),
      output: count,
      /** The same for jobs that make the same results of one source; null of those of earlier versions. */
      made_as: z.string().nullable(),
    })
    .transform(({ work_seconds: workSeconds, made_as: madeAs, ...row }) => ({ ...row, workSeconds, madeAs })),
  batches: z.object({
    id: z.string(),
    batch: json(batchSchema),
    /** Ids, in its order. */
    sources: json(z.array(z.string())),
    sentence: z.string(),
    refused: json(batchViewSchema.shape.refused),
    view: json(batchViewSchema.nullable()).catch(null),
    /** Milliseconds since 1970. */
    created: count,
    /** Id of the standing order that began it. */
    standing: z.string().nullable(),
  }),
  standing_orders: z
    .object({
      id: z.string(),
      edition: count,
      standing_order: json(standingOrderSchema),
      paused: truth,
      looked: z.string().nullable(),
      /** Milliseconds since 1970. */
      created: count,
    })
    .transform(({ standing_order: order, ...row }) => ({ ...row, order })),
  looks: z.object({
    source: z.string(),
    kind: decisionKindSchema,
    words: z.string(),
    stamp: z.string(),
    holds: truth,
    at: count,
  }),
  decisions: decisionSchema.extend({ id: count, source: json(decisionSchema.shape.source) }),
  selections: z.object({ sources: json(z.array(z.string())) }),
  receipts: z.object({ job: z.string(), receipt: json(z.preprocess(asKeptNow, receiptSchema)) }),
  renames: renameSchema.omit({ settled: true, created: true, sources: true }).extend({
    example: json(renameSchema.shape.example),
    problem: json(problemSchema.nullable()),
    /** Ids of sources before and after. */
    sources: json(z.array(z.tuple([z.string(), z.string()]))),
    /** Milliseconds since 1970. */
    created: count,
  }),
  receivers: z.object({ id: z.string(), receiver: json(receiverSchema) }),
  markers: z.object({ version: z.int(), markers: json(markersSchema) }),
  cadences: z.object({ cadence: json(cadenceSchema) }),
  words: z.object({ source: z.string(), word: json(wordSchema) }),
  rules: z.object({ folder: z.string(), word: json(ruleWordSchema) }),
  set_aside: z.object({ source: z.string(), code: z.string(), sentence: z.string(), reason: z.string() }),
};
export type Table = keyof typeof rowSchemas;
export type Row<T extends Table> = z.output<(typeof rowSchemas)[T]>;

/** Things on a shelf: named, numbered by version. */
export const keptSchema = <S extends z.ZodType>(schema: S) =>
  z.object({ id: z.int(), name: z.string(), version: z.int(), spec: json(schema), saved: z.string() });

/** Reads a row. @throws ShaleError `row-unreadable` naming the table and the field */
export function readRow<T extends Table>(table: T, row: unknown): Row<T> {
  return readWith(rowSchemas[table], row, unreadable(table)) as Row<T>;
}

/** Reads what can be read of a list: a row of which this version cannot make anything does not take the others along, and is logged. */
export function readRows<T extends Table>(table: T, rows: readonly unknown[]): Row<T>[] {
  return readList(rowSchemas[table], table, rows) as Row<T>[];
}

export function readList<S extends z.ZodType>(schema: S, table: string, rows: readonly unknown[]): z.output<S>[] {
  return rows.flatMap((row) => {
    try {
      return [readWith(schema, row, unreadable(table))];
    } catch (error) {
      log('warning', `database: left out of ${table}: ${(error as Error).message}`);
      return [];
    }
  });
}

const unreadable = (table: string) => ({
  code: 'row-unreadable',
  what: `What is kept in the table ${table}`,
  wayOut: 'It was kept by another version of Shale, or changed from outside: use that version, or make it again.',
});
