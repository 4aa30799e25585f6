import { z } from 'zod';
import type { Source } from '../numbering/source.ts';
import { parseRate, printRate, rateSchema } from '../timing/rate.ts';
import { ShaleError } from '../errors.ts';

/** Why a fact is held true: the file says it, its format's standard does, a folder or file name does, the person does, or nothing. */
export const groundsSchema = z.enum(['file', 'format', 'name', 'word', 'none']);
export type Grounds = z.infer<typeof groundsSchema>;

/** How alpha relates to colour; `none` where there is no alpha, `ignore` where it is not to be used. */
export const alphaKindSchema = z.enum(['none', 'straight', 'premultiplied', 'ignore']);
export type AlphaKind = z.infer<typeof alphaKindSchema>;

/** The curves that this version converts between. */
export const transferSchema = z.enum(['srgb', 'linear']);
export type Transfer = z.infer<typeof transferSchema>;

const fact = <T extends z.ZodType>(value: T) =>
  z.object({
    /** null where it is not declared. */
    value: value.nullable(),
    grounds: groundsSchema,
    /** What the grounds are exactly, such as the attribute or the folder's name. */
    detail: z.string().optional(),
  });

/** What a source is taken to be, each fact with its grounds. */
export const declarationSchema = z.object({
  rate: fact(rateSchema),
  alpha: fact(alphaKindSchema),
  transfer: fact(transferSchema),
});
export type Declaration = z.infer<typeof declarationSchema>;

/** The facts that a person has set, by their word; a fact that is absent keeps its other grounds. */
export const wordSchema = z
  .object({ rate: rateSchema, alpha: alphaKindSchema, transfer: transferSchema })
  .partial()
  .strict();
export type Word = z.infer<typeof wordSchema>;

const undeclared = { value: null, grounds: 'none' as const };

/** A rate that a folder or a file name speaks of: `walk_12fps/`, `12 FPS`, `23976fps`. */
export function rateInName(path: string): { rate: ReturnType<typeof parseRate>; said: string } | undefined {
  const match = /(\d{1,3}(?:[._]\d{1,3})?|23976|2997|5994)\s?fps(?![a-z])/i.exec(path);
  if (!match) return undefined;
  const run = match[1]!.replace('_', '.');
  const text = { 23976: '23.976', 2997: '29.97', 5994: '59.94' }[run] ?? run;
  try {
    return { rate: parseRate(text), said: match[0] };
  } catch (error) {
    if (error instanceof ShaleError) return undefined;
    throw error;
  }
}

function ratedBy(source: Source): Declaration['rate'] {
  const { facts } = source;
  if (facts?.rate) return { value: facts.rate, grounds: 'file', detail: `the file says ${printRate(facts.rate)}` };
  const named =
    source.kind === 'still' || source.kind === 'sound' ? undefined : rateInName(`${source.folder}/${source.name}`);
  if (named) return { value: named.rate, grounds: 'name', detail: `the name says "${named.said}"` };
  return undeclared;
}

function alphaBy(source: Source): Declaration['alpha'] {
  const { facts } = source;
  if (!facts) return undeclared;
  if (!facts.hasAlpha) return { value: 'none', grounds: 'file', detail: 'no alpha channel' };
  switch (facts.format) {
    case 'exr':
      return { value: 'premultiplied', grounds: 'format', detail: 'OpenEXR defines colour as premultiplied' };
    case 'png':
      return { value: 'straight', grounds: 'format', detail: 'PNG defines alpha as straight' };
    default:
      return undeclared;
  }
}

function transferBy(source: Source): Declaration['transfer'] {
  const { facts } = source;
  if (!facts) return undeclared;
  const said = transferSchema.safeParse(facts.transfer);
  if (said.success) return { value: said.data, grounds: 'file', detail: 'the file says so' };
  if (facts.transfer !== undefined) return { ...undeclared, detail: `the file says ${facts.transfer}` };
  if (facts.format === 'exr') return { value: 'linear', grounds: 'format', detail: 'OpenEXR defines colour as linear' };
  if (facts.format === 'jpeg') return { value: 'srgb', grounds: 'format', detail: 'usual for JPEG without a profile' };
  if (facts.format === 'png')
    return { value: 'srgb', grounds: 'format', detail: 'usual for PNG without a colour chunk' };
  return undeclared;
}

/** What can be told from a source alone, and the person's word over it. */
export function declare(source: Source, word: Word = {}): Declaration {
  const told = { rate: ratedBy(source), alpha: alphaBy(source), transfer: transferBy(source) };
  const bySaying = <T>(value: T | undefined) => (value === undefined ? undefined : { value, grounds: 'word' as const });
  return {
    rate: bySaying(word.rate) ?? told.rate,
    alpha: bySaying(word.alpha) ?? told.alpha,
    transfer: bySaying(word.transfer) ?? told.transfer,
  };
}

/** The grounds as the interface and the receipt word them. */
export const groundsWords: Record<Grounds, string> = {
  file: 'from the file',
  format: "the format's rule",
  name: 'from the name',
  word: 'your word',
  none: 'no grounds',
};

/** Alpha kinds and transfers as they are said. */
export const alphaWords: Record<AlphaKind, string> = {
  none: 'no alpha',
  straight: 'straight alpha',
  premultiplied: 'premultiplied',
  ignore: 'alpha ignored',
};
export const transferWords: Record<Transfer, string> = { srgb: 'sRGB', linear: 'linear' };
