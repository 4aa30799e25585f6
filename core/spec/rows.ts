import { z } from 'zod';
import { modeWords, ruleWords } from '../naming/sentence.ts';
import { namingSpecSchema, type NamingSpec } from '../naming/rules.ts';
import { sampleWords } from '../pixels/image.ts';
import { alphaWords, transferWords } from './declaration.ts';
import { formatRules, specSchema, type Spec } from './schema.ts';

/** What a spec says, field by field: a label and a few words. The same labels in the same order for every spec. */
export function specRows({
  frames,
  missing,
  write,
  names,
  into,
  existing,
  readBack,
}: Spec): [label: string, words: string][] {
  const setting = {
    png: `effort ${write.effort}`,
    tiff: write.tiffCompression,
    jpeg: `quality ${write.quality}`,
    tga: 'none',
    exr: write.exrCompression,
  }[write.format];
  return [
    ['Frames', frames],
    ['Where one is missing', missing === 'stop' ? 'stop' : 'leave it out'],
    ['Format', formatRules[write.format].words],
    ['Depth', sampleWords(write.sample)],
    ['Compression', setting],
    ['Alpha', alphaWords[write.alpha]],
    ['Transfer', transferWords[write.transfer]],
    ['Names', names.template],
    ['Stem', names.stem ?? 'the source’s'],
    ['First number', names.first === null ? 'the source’s' : String(names.first)],
    ['Root', into.root],
    ['Folder', into.folder ?? 'the stem'],
    ['Names that exist', existing === 'replace' ? 'are replaced' : 'stop the run'],
    ['Read back', readBack ? 'every file' : 'no'],
  ];
}

/** What a stack of naming rules says, a row for each rule. */
export const stackRows = ({ rules, mode, join }: NamingSpec): [label: string, words: string][] => [
  ['Files', `${modeWords[mode]}${join ? ', joined end to end' : ''}`],
  ...rules.map((rule, at): [string, string] => [
    `Rule ${at + 1}`,
    rule.on ? ruleWords(rule) : `off: ${ruleWords(rule)}`,
  ]),
];

/** Specs and naming rules as they are handed from one Shale to another. */
export const specFileSchema = z
  .object({
    shale: z.literal('specs'),
    version: z.literal(1),
    specs: z
      .array(z.object({ name: z.string().trim().min(1).max(80), spec: specSchema }).strict())
      .min(1)
      .max(200),
  })
  .strict();
export const stackFileSchema = z
  .object({
    shale: z.literal('names'),
    version: z.literal(1),
    names: z
      .array(z.object({ name: z.string().trim().min(1).max(80), spec: namingSpecSchema }).strict())
      .min(1)
      .max(200),
  })
  .strict();
