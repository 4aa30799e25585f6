import { batchOf, digestOf, groupedBy, lookAt, plural, ShaleError, type StandingOrder } from '@shale/core';
import type { DecisionKind, ListedSource, PlannedPart } from '@shale/contract';
import { planMany, type PlannedMany } from '../batches/planning.ts';
import type { Workshop } from '../workshop.ts';

/** Sources that are read at once. */
const together = 1000;

/** What is to be done about a source. */
export interface Decided {
  source: ListedSource;
  kind: Extract<DecisionKind, 'begins' | 'waits' | 'left' | 'there'>;
  words: string;
  /** Files that would be made. */
  files: number;
}

/** Sources that an order might take, read a part at a time. */
export async function* sourcesOf(order: StandingOrder, { store }: Workshop): AsyncGenerator<ListedSource[]> {
  const { root, folder, fits } = order;
  const [kind, ...more] = fits.kinds;
  const filter = { root, ...(folder === '' ? {} : { folder }), ...(kind && more.length === 0 ? { kind } : {}) };
  for (let offset = 0; ; offset += together) {
    const part = await store.sources.list(filter, { offset, limit: together, parts: 1 });
    yield part;
    if (part.length < together) return;
  }
}

/** What tells a source from its earlier self: its files, what it is taken to be, what is known of it. */
export const stampOf = ({ stamp, modified, bytes, files, declaration, findings }: ListedSource): string =>
  digestOf([stamp, modified, bytes, files, declaration, findings.map(({ code, setAside }) => [code, setAside ?? ''])]);

/**
 * What an order decides of sources at this moment. Those that do not fit are not among them.
 * @returns with them the plan of those that would begin, if any would
 */
export async function decide(
  order: StandingOrder,
  sources: readonly ListedSource[],
  house: Workshop,
  signal?: AbortSignal,
): Promise<{ decided: Decided[]; planned: PlannedMany | undefined }> {
  const decided: Decided[] = [];
  const ready: ListedSource[] = [];
  for (const source of sources) {
    const look = lookAt(order, source, source.declaration);
    if (look.is === 'ready') ready.push(source);
    else if (look.is !== 'unfit')
      decided.push({ source, kind: look.is, words: `${look.is}: ${withoutStop(look.why)}`, files: 0 });
  }
  if (ready.length === 0) return { decided, planned: undefined };
  const of = { sources: ready.map(({ id }) => id) };
  const planned = await planMany(of, batchOf(...order.outputs), 'new', house, { signal }).catch((error: unknown) => {
    // A folder that may not be written, or is away, is told of each source.
    if (!(error instanceof ShaleError)) throw error;
    for (const source of ready) decided.push({ source, ...left(error.fact) });
    return undefined;
  });
  if (planned) {
    const parts = groupedBy(planned.plan.parts, ({ source }) => source);
    for (const source of planned.sources) decided.push({ source, ...ofParts(parts.get(source.id) ?? []) });
  }
  return { decided, planned };
}

/** What is decided of a source by what its parts would do. */
function ofParts(parts: readonly PlannedPart[]): Omit<Decided, 'source'> {
  const [problem] = parts.flatMap(({ problems }) => problems);
  if (problem) return left(problem.fact);
  const files = parts.reduce((sum, part) => sum + part.files, 0);
  const kept = parts.reduce((sum, part) => sum + part.kept, 0);
  if (kept === files) return { kind: 'there', words: 'exists: all of it is made already', files: 0 };
  const words =
    kept === 0 ? plural(files, 'file') : `${(files - kept).toLocaleString('en-GB')} of ${plural(files, 'file')}`;
  return { kind: 'begins', words: `begins: ${words}`, files: files - kept };
}

export const left = (fact: string): Omit<Decided, 'source'> => ({
  kind: 'left',
  words: `left: ${withoutStop(fact)}`,
  files: 0,
});

const withoutStop = (text: string): string => text.replace(/\.$/, '');
