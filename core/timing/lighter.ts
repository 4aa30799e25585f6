import { printRate, type Rate } from './rate.ts';
import type { PlaybackWeight } from './weight.ts';
import { room } from './weight.ts';

/** A lighter version of a source, as a person would ask for it. */
export interface Lighter {
  /** Of each side. */
  scale: 1 | 0.5 | 0.25;
  words: string;
  /** How quickly it will decode, where that can be reckoned: where the source has the same codec. */
  tells?: string;
  /** Whether it is the largest that is reckoned to play. */
  plays: boolean;
}

const sizes = [
  [1, 'its own size'],
  [0.5, 'half size'],
  [0.25, 'quarter size'],
] as const;

/**
 * Lighter versions of a source that does not play well, the largest first. A version in the source's own codec and size is not among
 * them where decoding is what holds it up: it would be as heavy again.
 * @param format of the source: a still format or a codec
 * @param codec of the lighter version
 */
export function lighterOf(
  format: string,
  codec: 'h264' | 'vp9',
  { verdict, decodeRate }: PlaybackWeight,
  rate: Rate,
): Lighter[] {
  if (verdict === 'plays' || decodeRate === null) return [];
  const wanted = (rate.num / rate.den) * room;
  const isSame = format === codec;
  const name = codec === 'h264' ? 'H.264' : 'VP9 with alpha';
  const versions = sizes.map(([scale, size]): Lighter => {
    // A decoder's time goes with the pixels.
    const reckoned = decodeRate / scale ** 2;
    return {
      scale,
      words: `${name}, ${size}`,
      ...(isSame ? { tells: `about ${reckoned.toFixed(0)} frames a second` } : {}),
      plays: isSame && reckoned >= wanted,
    };
  });
  const offered = versions.filter(({ scale, plays }) => scale < 1 || !isSame || plays);
  const largest = offered.find(({ plays }) => plays);
  return offered.map((version) => ({ ...version, plays: version === largest }));
}

/** What the versions are offered for, in words. */
export const lighterWords = (versions: readonly Lighter[], rate: Rate): string =>
  `Lighter versions, to play at ${printRate(rate)}${versions.some(({ tells }) => tells) ? '' : '; how each plays is measured once it is made'}:`;
