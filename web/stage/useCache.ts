import { useEffect, useMemo, useState } from 'react';
import { PictureCache, type Decode, type Source } from './pictureCache.ts';

/**
 * A cache of pictures that lives as long as its identity, and draws its page again when a picture comes.
 * @param identity says when pictures come from elsewhere; null where none are wanted
 * @param way says when they are to be made another way
 */
export function useCache<T>(
  identity: string | null,
  source: () => Source<T>,
  way: string,
  decode: Decode<T>,
): PictureCache<T> | null {
  const [, redraw] = useState(0);
  const cache = useMemo(
    () => (identity === null ? null : new PictureCache(source(), decode, () => redraw((count) => count + 1))),
    // The identity says when pictures differ; the source object changes with every poll.
    // oxlint-disable-next-line react/exhaustive-deps
    [identity],
  );
  useEffect(() => {
    cache?.open();
    return () => cache?.close();
  }, [cache]);
  useEffect(() => {
    cache?.decodeBy(decode);
    // oxlint-disable-next-line react/exhaustive-deps
  }, [cache, way]);
  return cache;
}
