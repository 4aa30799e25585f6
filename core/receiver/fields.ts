import { z } from 'zod';
import { schemasOf, type Field } from '../formats/field.ts';
import { codecs, formatWords, stills, type CodecId } from '../formats/index.ts';
import { parseBytes } from '../limit/bytes.ts';
import { isAnimationFormat } from '../spec/video.ts';
import { separatorWords } from '../naming/separators.ts';
import { sampleSchema } from '../numbering/source.ts';
import { declaredTransferSchema } from '../pixels/colourNames.ts';
import { sampleWords } from '../pixels/image.ts';
import { alphaWords, transferWords } from '../spec/declaration.ts';
import { parseRate, rateNumber, rateSchema, type Rate } from '../timing/rate.ts';

const length = z.int().min(1).max(1_000_000);
const alphaSchema = z.enum(['none', 'straight', 'premultiplied']);
const separators = ['.', '_', '-', ' ', ''] as const;
const mebi = 1 << 20;

/** Small moving pictures that no still format has the name of. */
const animations = (Object.keys(codecs) as CodecId[]).filter(
  (id) => isAnimationFormat(id) && !Object.hasOwn(stills, id),
);

const field = <S extends z.ZodType>(value: Field<S>): Field<S> => value;
const worded = <T extends string>(values: readonly T[], words: (value: T) => string): Record<string, string> =>
  Object.fromEntries(values.map((value) => [value, words(value)]));
/** A number that may be left open. */
const open = { kind: 'whole', none: 'any' } as const;

const rates: Field['form'] = {
  kind: 'text',
  none: 'any, as 24, 23.976',
  mono: true,
  nullable: true,
  print: (value: readonly Rate[]) => value.map(rateNumber).join(', '),
  read: (text) =>
    text
      .split(',')
      .map((one) => one.trim())
      .filter(Boolean)
      .map(parseRate),
};

/** What a receiver may ask for of names, in the order of its form. A field that is null asks for nothing. */
export const receiverNameFields = {
  /** Which characters a name may hold but for its separator and dot: any, those of ASCII, or letters and digits. */
  characters: field({
    schema: z.enum(['any', 'ascii', 'plain']).default('any'),
    label: 'Characters',
    form: { kind: 'choice', words: { any: 'any', ascii: 'plain ASCII', plain: 'letters and digits' } },
  }),
  /** With letters and digits: which other characters are allowed. */
  keep: field({
    schema: z.string().max(20).default(''),
    label: 'Allowed besides letters',
    form: { kind: 'text', none: 'nothing', mono: true },
  }),
  /** What stands between the stem and the number, and nothing between number and ending. */
  separator: field({
    schema: z.enum(separators).nullable().default(null),
    label: 'Before the number',
    form: { kind: 'choice', none: 'any', words: worded(separators, separatorWords) },
  }),
  letters: field({
    schema: z.enum(['lower', 'upper']).nullable().default(null),
    label: 'Letters',
    form: { kind: 'choice', none: 'any case', words: { lower: 'small', upper: 'capital' } },
  }),
  /** Exactly so many digits. */
  digits: field({
    schema: z.int().min(1).max(20).nullable().default(null),
    label: 'Digits, exactly',
    form: open,
  }),
  first: field({
    schema: z.int().min(0).max(100_000_000).nullable().default(null),
    label: 'First number',
    form: open,
  }),
  /** Characters of a name, and of the whole path. */
  nameLength: field({ schema: length.nullable().default(null), label: 'Characters of a name', form: open }),
  pathLength: field({ schema: length.nullable().default(null), label: 'Characters of a path', form: open }),
  /** Whether a missing number ends the sequence. */
  unbroken: field({
    schema: z.boolean().default(false),
    label: 'No number may be missing',
    form: { kind: 'mark' },
  }),
  /** Whether it plays files in the order of their names: 1, 10, 2 where numbers have not one width. */
  byName: field({
    schema: z.boolean().default(false),
    label: 'Plays files in order of their names',
    form: { kind: 'mark' },
  }),
  /** Whether it takes every picture of the folder. */
  alone: field({
    schema: z.boolean().default(false),
    label: 'Reads every picture in the folder',
    form: { kind: 'mark' },
  }),
} as const;

/** What a receiver may ask for of pictures and time. */
export const receiverPictureFields = {
  /** Ids of formats, as `png`. */
  formats: field({
    schema: z
      .array(z.string().regex(/^[a-z0-9]{2,12}$/))
      .min(1)
      .max(40)
      .nullable()
      .default(null),
    label: 'Formats',
    form: { kind: 'several', words: worded([...Object.keys(stills), ...animations], formatWords) },
  }),
  samples: field({
    schema: z.array(sampleSchema).min(1).nullable().default(null),
    label: 'Depths',
    form: { kind: 'several', words: worded(sampleSchema.options, sampleWords) },
  }),
  alpha: field({
    schema: z.array(alphaSchema).min(1).nullable().default(null),
    label: 'Alpha',
    form: { kind: 'several', words: worded(alphaSchema.options, (kind) => alphaWords[kind]) },
  }),
  transfers: field({
    schema: z.array(declaredTransferSchema).min(1).nullable().default(null),
    label: 'Transfers',
    form: { kind: 'several', words: worded(declaredTransferSchema.options, (one) => transferWords[one]) },
  }),
  /** Pixels at most, and what both sides must be a multiple of. */
  maxWidth: field({ schema: length.nullable().default(null), label: 'Pixels across, at most', form: open }),
  maxHeight: field({ schema: length.nullable().default(null), label: 'Pixels down, at most', form: open }),
  multipleOf: field({
    schema: z.int().min(2).max(1024).nullable().default(null),
    label: 'Sides are multiples of',
    form: open,
  }),
  rates: field({ schema: z.array(rateSchema).min(1).max(40).nullable().default(null), label: 'Rates', form: rates }),
  /** Bytes of a file, to the byte: an animation is searched for within them. */
  fileBytes: field({
    schema: z.int().min(1).max(1e12).nullable().default(null),
    label: 'Bytes of a file, at most',
    form: {
      kind: 'text',
      none: 'any, as 256 KB',
      mono: true,
      nullable: true,
      print: (bytes: number) => bytes.toLocaleString('en-GB'),
      read: parseBytes,
    },
  }),
  seconds: field({
    schema: z.number().min(0.01).max(100_000).nullable().default(null),
    label: 'Seconds, at most',
    form: {
      kind: 'text',
      none: 'any, as 2.5',
      mono: true,
      nullable: true,
      print: (seconds: number) => String(seconds),
      read: (text) => Number(text.replace(',', '.')),
    },
  }),
  /** Whether a small moving picture has to play for ever. */
  loops: field({
    schema: z.boolean().default(false),
    label: 'Small moving pictures play for ever',
    form: { kind: 'mark' },
  }),
  /** Bytes of a frame on average, and of all. */
  frameBytes: field({
    schema: z.int().min(1).nullable().default(null),
    label: 'MiB of a frame, at most',
    form: { ...open, unit: mebi },
  }),
  totalBytes: field({
    schema: z.int().min(1).nullable().default(null),
    label: 'MiB of all, at most',
    form: { ...open, unit: mebi },
  }),
} as const;

export const receiverFieldSchemas = { ...schemasOf(receiverNameFields), ...schemasOf(receiverPictureFields) };
