import { LRUCache } from 'lru-cache';
import { makeRate, type Image, type Rate } from '@shale/core';
import { fileIdentity } from '../fileIdentity.ts';
import { ClipReader } from '../video/clipReader.ts';

/** Pictures of a sequence that are kept once they were decoded, as far as they fit. */
const kept = new LRUCache<string, Image[]>({
  maxSize: 256 << 20,
  sizeCalculation: (images) =>
    Math.max(
      1,
      images.reduce((sum, { data }) => sum + data.byteLength, 0),
    ),
});

/** How many pictures an image sequence of AVIF has, and their rate where all stand as long (ISO/IEC 23000-22, 6.3). */
export async function sequenceOf(path: string): Promise<{ pictures: number; rate?: Rate }> {
  const reader = await ClipReader.open(path, { threads: 1 });
  try {
    const { index, count, tick } = reader;
    const lengths = [...index.times].slice(1).map((time, at) => time - index.times[at]!);
    const [first = 0] = lengths;
    if (first <= 0 || lengths.some((one) => one !== first)) return { pictures: count };
    return { pictures: count, rate: makeRate(tick.den, tick.num * first) };
  } finally {
    await reader.close();
  }
}

/** One picture of a sequence. @param at from 0 @throws Error where there is none */
export async function sequencePicture(path: string, at: number): Promise<Image> {
  const key = await fileIdentity(path);
  const known = kept.get(key)?.[at];
  if (known) return known;
  const reader = await ClipReader.open(path, { threads: 1 });
  try {
    const images: Image[] = [];
    let bytes = 0;
    for (let place = 0; place < reader.count; place += 1) {
      const image = await reader.picture(place);
      bytes += image.data.byteLength;
      if (bytes > kept.maxSize) break;
      images.push(image);
    }
    if (bytes <= kept.maxSize) kept.set(key, images);
    return images[at] ?? (await reader.picture(at));
  } finally {
    await reader.close();
  }
}
