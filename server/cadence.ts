import { hasFrames, isAnimation, ShaleError, type Cadence } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { findCadence } from '@shale/engine';
import type { Workshop } from './workshop.ts';

/** Looks that go on, by source and what it is: who asks for the same waits for it. They give null where they are given up. */
const looking = new Map<string, Promise<Cadence | null>>();

/** What tells a source from what it was before. */
const identityOf = ({ files, bytes, modified }: ListedSource): string => `${files}-${bytes}-${Math.round(modified)}`;

/**
 * How the frames of a source follow one another, as it was found before; or it is looked for, which decodes every frame.
 * @throws ShaleError where it has no frames
 */
export async function cadenceOf(
  source: ListedSource,
  { store, pools, made }: Pick<Workshop, 'store' | 'pools' | 'made'>,
  looks: boolean,
  signal?: AbortSignal,
): Promise<Cadence | null> {
  const as = identityOf(source);
  const known = await store.marks.cadence(source.id, as);
  if (known || !looks) return known;
  if (!hasFrames(source) || isAnimation(source)) {
    throw new ShaleError({
      code: 'not-frames',
      fact: `${source.name} has no frame sequence.`,
      wayOut: 'Choose a sequence or a clip.',
      subject: source.id,
    });
  }
  const key = `${source.id} ${as}`;
  const start = async (): Promise<Cadence | null> => {
    try {
      const cadence = await findCadence(made.folderOf(source), source, pools.trying, signal);
      if (signal?.aborted) return null;
      await store.marks.putCadence(source.id, as, cadence);
      return cadence;
    } catch (error) {
      if (signal?.aborted) return null;
      throw error;
    }
  };
  for (;;) {
    let search = looking.get(key);
    if (!search) {
      search = start().finally(() => looking.delete(key));
      looking.set(key, search);
    }
    const found = await search;
    // Who began the look may have given it up; who still waits begins it anew.
    if (found || signal?.aborted) return found;
  }
}
