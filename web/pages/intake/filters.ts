import {
  sourceFilterSchema,
  sourceSortSchema,
  type Overview,
  type SourceFilter,
  type SourceSort,
} from '@shale/contract';
import type { ListWanted } from '../../api/api.ts';

/** The list that an address asks for; what does not fit is left out. @param firstRoot shown where no root is named */
export function readList(params: URLSearchParams, firstRoot: string): ListWanted {
  const fields = Object.keys(sourceFilterSchema.shape).flatMap((key) => {
    const value = params.get(key);
    return value === null || value === '' ? [] : [[key, value] as const];
  });
  const fits = fields.filter(([key, value]) => sourceFilterSchema.partial().safeParse({ [key]: value }).success);
  const filter = sourceFilterSchema.parse(Object.fromEntries(fits));
  const sort = sourceSortSchema.safeParse(params.get('sort')).data ?? 'folder';
  return {
    filter: { ...filter, root: filter.root ?? firstRoot },
    sort,
    descending: params.get('descending') === 'true',
  };
}

/** The address of a list. */
export function writeList({ filter, sort, descending }: ListWanted): URLSearchParams {
  const params = new URLSearchParams();
  for (const [key, value] of Object.entries(filter))
    if (value !== undefined && value !== '' && value !== false) params.set(key, String(value));
  if (sort !== 'folder') params.set('sort', sort);
  if (descending) params.set('descending', 'true');
  return params;
}

/** The filter without all that narrows its root and folder. */
export const wide = ({ root, folder }: SourceFilter): SourceFilter => ({ root, folder });

export const isNarrowed = (filter: SourceFilter): boolean =>
  Object.entries(filter).some(([key, value]) => key !== 'root' && key !== 'folder' && value !== undefined);

/** Whether a source lies where a list looks. */
export const isListed = ({ root, folder }: { root: string; folder: string }, filter: SourceFilter): boolean =>
  root === filter.root && (!filter.folder || folder === filter.folder || folder.startsWith(`${filter.folder}/`));

/** What a chip narrows a list to, and how many it would leave. */
export interface Chip {
  words: string;
  count: number;
  filter: SourceFilter;
}

const kindWords = { sequence: 'Sequences', clip: 'Clips', still: 'Stills', sound: 'Sounds' } as const;

/** The chips over the list, those that would leave nothing only where they are in force. */
export function chipsOf({ facets }: Overview, inForce: SourceFilter): Chip[] {
  const chips: Chip[] = [
    { words: 'All', count: facets.all, filter: {} },
    { words: 'Need attention', count: facets.look, filter: { look: true } },
    { words: 'Rate not declared', count: facets.undeclared, filter: { rate: 'none' } },
    ...(Object.keys(kindWords) as (keyof typeof kindWords)[]).map((kind) => ({
      words: kindWords[kind],
      count: facets.kinds[kind] ?? 0,
      filter: { kind },
    })),
  ];
  return chips.filter((chip) => chip.count > 0 || chip.words === 'All' || isInForce(chip, inForce));
}

/** Whether a list is narrowed by exactly this chip, as far as chips go. */
export function isInForce(chip: Chip, { look, rate, kind }: SourceFilter): boolean {
  const rates = rate === 'none' ? rate : undefined;
  return chip.filter.look === look && chip.filter.rate === rates && chip.filter.kind === kind;
}

/** Times within which something changed, in hours. */
export const ages: [hours: number, words: string][] = [
  [1, 'in the last hour'],
  [24, 'in the last day'],
  [24 * 7, 'in the last week'],
  [24 * 31, 'in the last month'],
];

export const sorts: [SourceSort, boolean, string][] = [
  ['folder', false, 'by folder'],
  ['findings', true, 'most serious findings first'],
  ['modified', true, 'newest changes first'],
  ['modified', false, 'oldest changes first'],
  ['frames', true, 'most frames first'],
  ['bytes', true, 'largest first'],
];
