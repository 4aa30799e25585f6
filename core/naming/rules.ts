import { z } from 'zod';

const on = z.boolean().default(true);

/** The name's form, in braces. */
const templateRule = z.object({ kind: z.literal('template'), on, template: z.string().max(200) }).strict();

/** New numbers. Each field that is null keeps what the source has. */
const numberRule = z
  .object({
    kind: z.literal('number'),
    on,
    first: z.int().min(-1_000_000).max(1_000_000_000).nullable().default(null),
    /** Numbers from one frame to the next; null keeps the source's own. */
    step: z.int().min(1).max(100_000).nullable().default(null),
    /** If a frame is missing: keep its number free, or count on without a hole. */
    gaps: z.enum(['keep', 'close']).default('keep'),
    /** Digits at least; `auto` takes as many as the greatest number needs, null keeps the source's. */
    digits: z
      .union([z.literal('auto'), z.int().min(1).max(20)])
      .nullable()
      .default(null),
    /** What stands before the number. */
    before: z.enum(['.', '_', '-', ' ', '']).nullable().default(null),
  })
  .strict();

/** Finds text or an RE2 expression, every time it stands there, and puts other text in its place. */
const replaceRule = z
  .object({
    kind: z.literal('replace'),
    on,
    find: z.string().max(200),
    /** With an expression, `$1` is what its first bracket found. */
    with: z.string().max(200).default(''),
    as: z.enum(['text', 'expression']).default('text'),
    anyCase: z.boolean().default(false),
    /** The stem, the ending, or the finished name without its ending, after numbering. */
    where: z.enum(['stem', 'ending', 'whole']).default('stem'),
  })
  .strict();

const caseRule = z
  .object({
    kind: z.literal('case'),
    on,
    to: z.enum(['lower', 'upper', 'words']),
    where: z.enum(['stem', 'ending', 'both']).default('both'),
  })
  .strict();

/** Every run of dots, dashes, underscores and spaces in the stem becomes one of a kind. */
const separatorRule = z.object({ kind: z.literal('separators'), on, to: z.enum(['.', '_', '-', ' ', '']) }).strict();

/** Cuts letters off the stem's ends, then separators and spaces that stand there. */
const trimRule = z
  .object({
    kind: z.literal('trim'),
    on,
    start: z.int().min(0).max(255).default(0),
    end: z.int().min(0).max(255).default(0),
    tidy: z.boolean().default(true),
  })
  .strict();

/** Letters and digits without accents, and what else is kept; any run of other characters becomes `with`. */
const characterRule = z
  .object({
    kind: z.literal('characters'),
    on,
    keep: z.string().max(20).default('_-'),
    with: z.enum(['_', '-', '']).default('_'),
  })
  .strict();

/** Names that are spelled otherwise than most of their source (ending, Unicode form) are spelled like the others. */
const spellingRule = z.object({ kind: z.literal('spelling'), on }).strict();

export const nameRuleSchema = z.discriminatedUnion('kind', [
  templateRule,
  numberRule,
  replaceRule,
  caseRule,
  separatorRule,
  trimRule,
  characterRule,
  spellingRule,
]);
export type NameRule = z.output<typeof nameRuleSchema>;
export type NameRuleInput = z.input<typeof nameRuleSchema>;
export type NameRuleKind = NameRule['kind'];
export type RuleOf<K extends NameRuleKind> = Extract<NameRule, { kind: K }>;

/** Where the files get their new names: on the spot, or as copies, hard links or themselves elsewhere. */
export const renameModeSchema = z.enum(['rename', 'copy', 'link', 'move']);
export type RenameMode = z.infer<typeof renameModeSchema>;

/** Everything about new names of files whose bytes stay as they are. */
export const namingSpecSchema = z
  .object({
    version: z.literal(1),
    /** Carried out from the first to the last. */
    rules: z.array(nameRuleSchema).max(40).default([]),
    mode: renameModeSchema.default('rename'),
    into: z
      .object({
        /** Id of a root that may be written; null stays in the source's. */
        root: z.string().max(400).nullable().default(null),
        /** A template of the folder below it; null keeps each source's folder. */
        folder: z.string().max(400).nullable().default(null),
      })
      .strict()
      .prefault({}),
    /** All sources, in their order, under one continuous numbering in one folder. */
    join: z.boolean().default(false),
  })
  .strict();
export type NamingSpec = z.output<typeof namingSpecSchema>;
export type NamingSpecInput = z.input<typeof namingSpecSchema>;

/** A rule of a kind as it stands when it is added. */
export function newRule(kind: NameRuleKind): NameRule {
  const begin: Record<NameRuleKind, NameRuleInput> = {
    template: { kind: 'template', template: '{stem}.{frame:4}.{ext}' },
    number: { kind: 'number', digits: 'auto' },
    replace: { kind: 'replace', find: '' },
    case: { kind: 'case', to: 'lower' },
    separators: { kind: 'separators', to: '_' },
    trim: { kind: 'trim' },
    characters: { kind: 'characters' },
    spelling: { kind: 'spelling' },
  };
  return nameRuleSchema.parse(begin[kind]);
}
