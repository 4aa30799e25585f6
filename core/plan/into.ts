import { z } from 'zod';
import { codecRecord } from '../formats/index.ts';
import { stemOf } from '../naming/template.ts';
import { frameName, printPattern, type Pattern } from '../numbering/pattern.ts';
import type { Spec } from '../spec/schema.ts';
import { patternSchema } from '../numbering/source.ts';

const placeSchema = z.object({
  root: z.string(),
  /** Below the root. */
  folder: z.string(),
  /** What names begin with. */
  stem: z.string(),
});

/** Where results go, and what they are called: one video, stills by a pattern, or stills that have a name each. */
export const intoSchema = z.discriminatedUnion('kind', [
  placeSchema.extend({ kind: z.literal('video'), file: z.string() }),
  placeSchema.extend({ kind: z.literal('sequence'), pattern: patternSchema }),
  /** Names by the number of the result. */
  placeSchema.extend({ kind: z.literal('stills'), names: z.record(z.string(), z.string()) }),
]);
export type Into = z.infer<typeof intoSchema>;

/** As plans were kept before their results had a kind. */
const earlierSchema = z.object({
  root: z.string(),
  folder: z.string(),
  pattern: patternSchema,
  file: z.string().optional(),
  names: z.record(z.string(), z.string()).optional(),
});

/** The place of a plan that an earlier version kept; anything else as it is. */
export function readInto(value: unknown): unknown {
  const earlier = earlierSchema.safeParse(value);
  if (!earlier.success || (value as { kind?: unknown }).kind !== undefined) return value;
  const { root, folder, pattern, file, names } = earlier.data;
  const place = { root, folder, stem: stemOf(pattern) };
  if (file !== undefined) return { ...place, kind: 'video', file } satisfies Into;
  if (names) return { ...place, kind: 'stills', names } satisfies Into;
  return { ...place, kind: 'sequence', pattern } satisfies Into;
}

/** PNG stills by a stem: in place of names that cannot be worked out, and of a video whose pictures are looked at. */
export const plainPattern = (stem: string, ending = 'png'): Pattern => ({
  prefix: `${stem}.`,
  padding: 4,
  suffix: `.${ending}`,
});

/** What a result is called. */
export function resultName(into: Into, frame: number): string {
  if (into.kind === 'video') return into.file;
  return into.kind === 'sequence' ? frameName(into.pattern, frame) : into.names[frame]!;
}

/** The name of the JSON beside a sprite sheet; undefined of all else. */
export const besideName = ({ into, spec }: { into: Into; spec: Pick<Spec, 'write'> }): string | undefined =>
  into.kind === 'video' && codecRecord(spec.write.format)?.animation?.isSheet
    ? into.file.replace(/(\.[^.]*)?$/, '.json')
    : undefined;

/** What results are called together: the video's name, the pattern, or the first of the names that each has of its own. */
export function writtenAs(into: Into): string {
  if (into.kind === 'video') return into.file;
  if (into.kind === 'sequence') return printPattern(into.pattern);
  const [first = '', ...more] = Object.values(into.names);
  return more.length === 0 ? first : `${first} and ${more.length} more`;
}
