import { LRUCache } from 'lru-cache';
import { ClipReader, fileIdentity } from '@shale/media';
import type { Fields, Image } from '@shale/core';

/**
 * Readers that a process keeps open for questions about single pictures: the four that were asked last, for twenty seconds after the
 * last question.
 */
const open = new LRUCache<string, Promise<ClipReader>>({
  max: 4,
  ttl: 20_000,
  ttlAutopurge: true,
  updateAgeOnGet: true,
  dispose: (reader) => void reader.then((one) => one.close()).catch(() => undefined),
});

/** A picture of a clip by its number. @throws ShaleError naming the file, and the picture where it is that which is damaged */
export async function pictureOfClip(
  path: string,
  number: number,
  { fields = 'keep', layer = null }: { fields?: Fields; layer?: string | null } = {},
): Promise<Image> {
  const key = `${await fileIdentity(path)}\0${fields}\0${layer ?? ''}`;
  let reader = open.get(key);
  if (!reader) open.set(key, (reader = ClipReader.open(path, { fields, layer, threads: 2 })));
  try {
    return await (await reader).picture(number);
  } catch (error) {
    if ((await reader.catch(() => undefined)) === undefined) open.delete(key);
    throw error;
  }
}
