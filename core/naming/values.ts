import type { SampleFormat, Source } from '../numbering/source.ts';
import type { Rate } from '../timing/rate.ts';
import type { Declaration } from '../spec/declaration.ts';
import type { NameValues } from './template.ts';

/** Bits of a sample. */
export const bitsOf = (sample: SampleFormat): number => Number(sample.slice(1));

/** What a source's place, header and declaration give the fields of a name; what is not known is left out. */
export function nameValues(
  source: Source,
  declaration: Declaration,
  rate: Rate | null = declaration.rate.value,
): NameValues {
  const { facts, folder, version } = source;
  return {
    folder: folder.split('/').pop() ?? '',
    path: folder,
    ...(rate && { rate: String(rate.den === 1 ? rate.num : Number((rate.num / rate.den).toFixed(3))) }),
    ...(version !== undefined && { version }),
    ...(facts && { width: facts.width, height: facts.height, depth: bitsOf(facts.sample) }),
  };
}
