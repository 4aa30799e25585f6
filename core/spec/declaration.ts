import { z } from 'zod';
import { usualsOf } from '../formats/index.ts';
import { frameCount, frameSpan, type Source } from '../numbering/source.ts';
import { parseRate, printRate, rateSchema, standardRates, type Rate } from '../timing/rate.ts';
import {
  alphaKindSchema,
  declaredTransferSchema,
  matteSchema,
  pixelAspectSchema,
  primariesSchema,
  type AlphaKind,
  type DeclaredTransfer,
  type Primaries,
} from '../pixels/colourNames.ts';
import { ShaleError } from '../errors.ts';

/**
 * Why a fact is held true: the person says it, a rule kept for the folder does, the file does, a folder or file name, a sound
 * of matching length, the format's standard, or nothing.
 */
export const groundsSchema = z.enum(['word', 'rule', 'file', 'name', 'sound', 'format', 'none']);
export type Grounds = z.infer<typeof groundsSchema>;

const firstSchema = z.int().min(-1_000_000).max(100_000_000);

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
  transfer: fact(declaredTransferSchema),
  primaries: fact(primariesSchema),
  /** The number of the first frame. */
  first: fact(firstSchema),
  pixelAspect: fact(pixelAspectSchema),
  /** The colour that premultiplied pictures lie on, where it is not black. */
  matte: fact(matteSchema).default({ value: null, grounds: 'none' }),
});
export type Declaration = z.infer<typeof declarationSchema>;
export type FactName = keyof Declaration;

/** The facts that a person has set, by their word; a fact that is absent keeps its other grounds. */
export const wordSchema = z
  .object({
    rate: rateSchema,
    alpha: alphaKindSchema,
    transfer: declaredTransferSchema,
    primaries: primariesSchema,
    first: firstSchema,
    pixelAspect: pixelAspectSchema,
    matte: matteSchema,
  })
  .partial()
  .strict();
export type Word = z.infer<typeof wordSchema>;

/** What a rule says: a word on sources, and which number of their names counts the frames. */
export const ruleWordSchema = wordSchema.extend({
  /** 1 for the first number of a name, -1 for the last, 0 for none of them. */
  frameNumber: z.int().min(-12).max(12).optional(),
});
export type RuleWord = z.infer<typeof ruleWordSchema>;

/** A word that holds for everything in and below a folder of a root; the empty folder is the whole root. */
export interface Rule {
  folder: string;
  word: RuleWord;
}

/** The nearest rule above a folder. */
function nearest(rules: readonly Rule[], folder: string): Rule | undefined {
  const holds = rules.filter(
    (rule) => rule.folder === '' || folder === rule.folder || folder.startsWith(`${rule.folder}/`),
  );
  return holds.sort((a, b) => b.folder.length - a.folder.length)[0];
}

/** The rule on what sources of a folder are: of the nearest folder above it that has one. */
export const ruleFor = (rules: readonly Rule[], folder: string): Rule | undefined =>
  nearest(
    rules.filter(({ word: { frameNumber: _, ...facts } }) => Object.keys(facts).length > 0),
    folder,
  );

/** The nearest rule that says which number of a name counts the frames. */
export const numberRuleFor = (rules: readonly Rule[], folder: string): Rule | undefined =>
  nearest(
    rules.filter(({ word }) => word.frameNumber !== undefined),
    folder,
  );

const undeclared = { value: null, grounds: 'none' as const };

/**
 * A rate that a folder or a file name speaks of: `walk_12fps/`, `12 FPS`, `23976fps`; the decimals of the 1000/1001 rates
 * also alone, as `plate_23976`. The name nearest the file counts.
 */
export function rateInName(path: string): { rate: Rate; said: string } | undefined {
  const said = [...path.matchAll(/(?<!\d)(\d{1,3}(?:[._]\d{1,3})?|23976|2997|5994)[ _-]?fps(?![a-z])/gi)].at(-1);
  const alone = [...path.matchAll(/(?<![\da-z.])(23976|2997|5994|23\.976|29\.97|59\.94)(?![\da-z]|\.\d)/gi)].at(-1);
  const match = said ?? alone;
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

/** The standard rate at which so many frames last as long as a sound, to within half a frame; the closest where several do. */
export function rateBySound(frames: number, seconds: { num: number; den: number }): Rate | undefined {
  let best: Rate | undefined;
  let least = 0.5;
  for (const rate of standardRates) {
    const off = Math.abs(frames - (seconds.num * rate.num) / (seconds.den * rate.den));
    if (off > least || (best && off === least)) continue;
    least = off;
    best = rate;
  }
  return best;
}

function soundRate(source: Source): Declaration['rate'] | undefined {
  const frames = frameCount(source);
  if (source.kind !== 'sequence' || frames < 12) return undefined;
  const matches = (source.beside ?? []).flatMap(({ name, seconds }) => {
    const rate = rateBySound(frames, seconds);
    return rate ? [{ name, rate }] : [];
  });
  const [first, ...others] = matches;
  if (!first || others.some(({ rate }) => rate.num !== first.rate.num || rate.den !== first.rate.den)) return undefined;
  return { value: first.rate, grounds: 'sound', detail: `${first.name} lasts as long at ${printRate(first.rate)}` };
}

function ratedBy(source: Source): Declaration['rate'] {
  const { facts } = source;
  const named =
    source.kind === 'still' || source.kind === 'sound' ? undefined : rateInName(`${source.folder}/${source.name}`);
  if (facts?.rate) return { value: facts.rate, grounds: 'file', detail: `the file says ${printRate(facts.rate)}` };
  if (named) return { value: named.rate, grounds: 'name', detail: `the name says "${named.said}"` };
  return soundRate(source) ?? undeclared;
}

function alphaBy(source: Source): Declaration['alpha'] {
  const { facts } = source;
  if (!facts) return undeclared;
  if (!facts.hasAlpha) return { value: 'none', grounds: 'file', detail: 'no alpha channel' };
  if (facts.alphaSays) return { value: facts.alphaSays, grounds: 'file', detail: 'the file says so' };
  const usual = usualsOf(facts.format).alpha;
  return usual ? { ...usual, grounds: 'format' } : undeclared;
}

function transferBy(source: Source): Declaration['transfer'] {
  const { facts } = source;
  if (!facts) return undeclared;
  const said = declaredTransferSchema.safeParse(facts.transfer);
  if (said.success) return { value: said.data, grounds: 'file', detail: 'the file says so' };
  if (facts.transfer !== undefined) return { ...undeclared, detail: `the file says ${facts.transfer}` };
  if (facts.clip) {
    const isRgb = facts.clip.matrix.value === 'rgb';
    return {
      value: isRgb ? 'srgb' : 'bt709',
      grounds: 'format',
      detail: `default for ${isRgb ? 'RGB ' : ''}video without colour tags`,
    };
  }
  const usual = usualsOf(facts.format).transfer;
  return usual ? { ...usual, grounds: 'format' } : undeclared;
}

function primariesBy(source: Source): Declaration['primaries'] {
  const { facts } = source;
  if (!facts) return undeclared;
  const said = primariesSchema.safeParse(facts.primaries);
  if (said.success) return { value: said.data, grounds: 'file', detail: 'the file says so' };
  if (facts.primaries !== undefined) return { ...undeclared, detail: `the file says ${facts.primaries}` };
  if (facts.clip) return { value: 'bt709', grounds: 'format', detail: 'default for video without colour tags' };
  const usual = usualsOf(facts.format).primaries;
  return usual ? { ...usual, grounds: 'format' } : undeclared;
}

function firstBy(source: Source): Declaration['first'] {
  const span = frameSpan(source.coverage);
  if (!span) return undeclared;
  if (source.kind === 'sequence') return { value: span.first, grounds: 'name', detail: 'the lowest number' };
  return { value: 0, grounds: 'format', detail: 'a clip is counted from 0' };
}

function pixelAspectBy({ facts }: Source): Declaration['pixelAspect'] {
  if (!facts) return undeclared;
  if (facts.pixelAspect) return { value: facts.pixelAspect, grounds: 'file', detail: 'the file says so' };
  return { value: { num: 1, den: 1 }, grounds: 'format', detail: 'square, since the file says nothing' };
}

/** What can be told from a source alone. */
function told(source: Source): Declaration {
  return {
    rate: ratedBy(source),
    alpha: alphaBy(source),
    transfer: transferBy(source),
    primaries: primariesBy(source),
    first: firstBy(source),
    pixelAspect: pixelAspectBy(source),
    matte: undeclared,
  };
}

/** What a source is taken to be: by the person's word, else by the rule for its folder, else by what it tells itself. */
export function declare(source: Source, word: Word = {}, rule?: Rule): Declaration {
  const own = told(source);
  const facts = Object.entries(own).map(([name, fact]) => {
    const key = name as FactName;
    if (word[key] !== undefined) return [key, { value: word[key], grounds: 'word' }];
    if (rule?.word[key] !== undefined) {
      const where = rule.folder === '' ? 'the whole root' : rule.folder;
      // What the source itself says is not hidden by a rule that says otherwise.
      const says = fact.grounds === 'file' || fact.grounds === 'name' ? `; ${fact.detail}` : '';
      return [key, { value: rule.word[key], grounds: 'rule', detail: `rule for ${where}${says}` }];
    }
    return [key, fact];
  });
  return Object.fromEntries(facts) as Declaration;
}

/** The grounds as the interface and the receipt word them. */
export const groundsWords: Record<Grounds, string> = {
  word: 'set by you',
  rule: 'your rule',
  file: 'from the file',
  name: 'from the name',
  sound: 'from a sound',
  format: "the format's rule",
  none: 'nothing says',
};

/** Alpha kinds and transfers as they are said. */
export const alphaWords: Record<AlphaKind, string> = {
  none: 'no alpha',
  straight: 'straight alpha',
  premultiplied: 'premultiplied',
  'on-colour': 'premultiplied on a colour',
  ignore: 'alpha ignored',
};
export const transferWords: Record<DeclaredTransfer, string> = {
  srgb: 'sRGB',
  linear: 'linear',
  bt709: 'BT.709',
  'gamma-2.2': 'gamma 2.2',
  'gamma-2.4': 'gamma 2.4 (BT.1886)',
  'film-log': 'film log',
  pq: 'PQ',
  hlg: 'HLG',
};
export const primariesWords: Record<Primaries, string> = {
  bt709: 'BT.709',
  p3: 'P3 D65',
  bt2020: 'BT.2020',
  acescg: 'ACEScg',
};
