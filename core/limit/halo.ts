import { maxCode, type Image } from '../pixels/image.ts';

/** Grounds on which edges are judged, as codes of sRGB of 8 bits. */
const grounds = { dark: [27, 31, 34], light: [255, 255, 255] } as const;

/** Codes of 255 by which an edge may be off what it should be there before it is seen. */
const seen = 40;

/** Pixels of an edge that show as a halo on a ground. */
export type Halo = Record<keyof typeof grounds, number>;

/**
 * Counts pixels that are half-clear in what is meant and opaque in what is shown, and that are another colour than what is meant would be
 * on a ground: a halo is seen there. Both are of straight alpha and of one size.
 */
export function haloOf(meant: Image, shown: Image): Halo {
  const halo: Halo = { dark: 0, light: 0 };
  if (meant.channels !== 4 || shown.channels !== 4 || meant.data.length !== shown.data.length) return halo;
  const [from, to] = [255 / (maxCode(meant.sample) ?? 1), 255 / (maxCode(shown.sample) ?? 1)];
  for (let at = 0; at < meant.data.length; at += 4) {
    const alpha = (meant.data[at + 3]! * from) / 255;
    if (alpha <= 0 || alpha >= 1 || shown.data[at + 3]! * to < 255) continue;
    for (const [name, ground] of Object.entries(grounds) as [keyof Halo, readonly number[]][]) {
      const isOff = ground.some((behind, channel) => {
        const wanted = meant.data[at + channel]! * from * alpha + behind * (1 - alpha);
        return Math.abs(wanted - shown.data[at + channel]! * to) > seen;
      });
      if (isOff) halo[name] += 1;
    }
  }
  return halo;
}
