import { z } from 'zod';
import { asTheyAre, schemasOf, type Field } from './field.ts';

/** Compressions of OpenEXR by the standard's names. */
export const exrCompressionSchema = z.enum([
  'NONE',
  'RLE',
  'ZIPS',
  'ZIP',
  'PIZ',
  'PXR24',
  'B44',
  'B44A',
  'DWAA',
  'DWAB',
]);

export const tiffCompressionSchema = z.enum(['none', 'lzw', 'deflate']);

/** A setting by which still formats compress: a field of a spec's `write`. */
const setting = <S extends z.ZodType>(value: Field<S>): Field<S> => value;

/** The settings of all still formats; each format names those that it has. */
export const writeSettings = {
  /** Of deflate: 1 fast to 9 small. */
  effort: setting({
    schema: z.int().min(1).max(9).default(3),
    label: 'Effort',
    form: {
      kind: 'choice',
      words: { ...asTheyAre([...'123456789']), 1: '1, fastest', 9: '9, smallest' },
    },
  }),
  quality: setting({
    schema: z.int().min(1).max(100).default(92),
    label: 'Quality, 1 to 100',
    form: { kind: 'whole' },
  }),
  /** How densely JPEG keeps colour against light: as densely, or a quarter of it. */
  jpegChroma: setting({
    schema: z.enum(['4:4:4', '4:2:0']).default('4:4:4'),
    label: 'Colour',
    form: { kind: 'choice', words: { '4:4:4': '4:4:4, whole', '4:2:0': '4:2:0, a quarter' } },
  }),
  /** Every sample kept, or by quality. */
  lossless: setting({
    schema: z.boolean().default(true),
    label: 'Compression',
    form: { kind: 'switch', on: 'lossless', off: 'by quality' },
  }),
  exrCompression: setting({
    schema: exrCompressionSchema.default('ZIP'),
    label: 'Compression',
    form: { kind: 'choice', words: asTheyAre(exrCompressionSchema.options) },
  }),
  /** Of DWAA and DWAB, by the library's own scale: 0 changes least. */
  dwaLevel: setting({
    schema: z.number().min(0).max(1000).default(45),
    label: 'Level, 0 best',
    form: { kind: 'decimal', least: 0, most: 1000 },
  }),
  tiffCompression: setting({
    schema: tiffCompressionSchema.default('deflate'),
    label: 'Compression',
    form: { kind: 'choice', words: asTheyAre(tiffCompressionSchema.options) },
  }),
} as const;

export type SettingName = keyof typeof writeSettings;

/** What the settings say, by their names. */
export type WriteSettings = { [K in SettingName]: z.output<(typeof writeSettings)[K]['schema']> };

/** The schemas of all settings, as fields of `write`. */
export const settingSchemas = schemasOf(writeSettings);
