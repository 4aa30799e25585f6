import { z } from 'zod';
import { rateFraction, rateSchema, type Rate } from '../timing/rate.ts';
import { plural } from '../words.ts';
import type { Declaration } from '../spec/declaration.ts';
import { folderApart } from './apart.ts';

/** What is said of many sources together: small, however many there are. */
export const spokenSchema = z.object({
  count: z.int().min(0),
  /** Of the first. */
  name: z.string(),
  /** Each kind once. */
  kinds: z.array(z.string()),
  /** Each declared rate once; null among them where one has none. */
  rates: z.array(rateSchema.nullable()),
  /** The rate that most have; 24 where none has any. */
  usualRate: rateSchema,
  /** A folder for the results of each that keeps them apart; null where their names do already. */
  apart: z.string().nullable(),
});
export type SpokenSources = z.infer<typeof spokenSchema>;

interface Speakable {
  folder: string;
  name: string;
  kind: string;
  declaration: Pick<Declaration, 'rate'>;
}

export function spokenOf(sources: readonly Speakable[]): SpokenSources {
  const rates = new Map<string, { rate: Rate | null; count: number }>();
  for (const { declaration } of sources) {
    const rate = declaration.rate.value;
    const key = rate ? rateFraction(rate) : '';
    const known = rates.get(key);
    if (known) known.count += 1;
    else rates.set(key, { rate, count: 1 });
  }
  const declared = [...rates.values()].flatMap(({ rate, count }) => (rate ? [{ rate, count }] : []));
  const [most] = declared.sort((a, b) => b.count - a.count);
  return {
    count: sources.length,
    name: sources[0]?.name ?? '',
    kinds: [...new Set(sources.map(({ kind }) => kind))],
    rates: [...rates.values()].map(({ rate }) => rate),
    usualRate: most?.rate ?? { num: 24, den: 1 },
    apart: folderApart(sources),
  };
}

/** Many things by what they are: `12 sequences`, `3 clips`, `5 sources` where they are of several kinds. */
export const sourcesSaid = ({ count, kinds }: Pick<SpokenSources, 'count' | 'kinds'>): string =>
  plural(count, kinds.length === 1 ? kinds[0]! : 'source');
