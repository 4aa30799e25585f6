import type { z } from 'zod';

/** How a value is asked for. Words are by the value as text. */
export type FieldForm =
  | {
      kind: 'choice';
      words: Readonly<Record<string, string>>;
      /** What it is called to ask for nothing, where that can be. */
      none?: string;
    }
  | { kind: 'several'; words: Readonly<Record<string, string>> }
  /** Yes or no: a choice of two words, or a mark beside the label. */
  | { kind: 'switch'; on: string; off: string }
  | { kind: 'mark' }
  | {
      kind: 'whole';
      /** Shown where nothing is asked for; absent where a number has to be. */
      none?: string;
      /** The most that this case takes, where the schema takes more. */
      most?: number;
      /** In how many of its units a person counts: 1,048,576 for bytes counted in MiB. */
      unit?: number;
    }
  | { kind: 'decimal'; least: number; most: number }
  /** How far it may be given up, and how soon beside others. */
  | { kind: 'floor' }
  | {
      kind: 'text';
      none?: string;
      mono?: boolean;
      /** Whether nothing is null, or the empty text. */
      nullable?: boolean;
      /** How a value is written and read, where it is not a text itself. @throws ShaleError */
      print?: (value: never) => string;
      read?: (text: string) => unknown;
    };

/** A field of a spec or a receiver: its schema, and how a form asks for it. @typeParam At what the form knows beside it */
export interface Field<S extends z.ZodType = z.ZodType, At = void> {
  schema: S;
  /** A noun, with its unit or range where it is a number. */
  label: string | ((at: At) => string);
  form: FieldForm | ((at: At) => FieldForm);
  /** Whether it is asked for; always where this is absent. */
  applies?: (at: At) => boolean;
}

export type SchemasOf<F> = { [K in keyof F]: F[K] extends { schema: infer S } ? S : never };
/** The schemas of a table of fields, as a Zod object takes them. */
export const schemasOf = <F extends Readonly<Record<string, { schema: z.ZodType }>>>(fields: F): SchemasOf<F> =>
  Object.fromEntries(Object.entries(fields).map(([name, { schema }]) => [name, schema])) as SchemasOf<F>;

/** How a field is asked for in a case. */
export const formOf = <At>({ form }: Field<z.ZodType, At>, at: At): FieldForm =>
  typeof form === 'function' ? form(at) : form;

/** Words that are the values themselves. */
export const asTheyAre = (names: readonly string[]): Record<string, string> =>
  Object.fromEntries(names.map((name) => [name, name]));
