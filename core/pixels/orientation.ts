import type { Picture } from './picture.ts';

/** What brings a stored picture upright, by the number of its orientation (TIFF 6.0, field 274; EXIF 2.32, 4.6.4): a turn, then a flip. */
const ways: Record<number, Pick<Picture, 'turn' | 'flip'>> = {
  2: { turn: 0, flip: 'across' },
  3: { turn: 180, flip: 'none' },
  4: { turn: 0, flip: 'down' },
  5: { turn: 90, flip: 'across' },
  6: { turn: 90, flip: 'none' },
  7: { turn: 270, flip: 'across' },
  8: { turn: 270, flip: 'none' },
};

/** The turn and flip that a picture asks for; none where it asks for nothing. */
export const uprightBy = (orientation: number | undefined): Pick<Picture, 'turn' | 'flip'> =>
  ways[orientation ?? 1] ?? { turn: 0, flip: 'none' };

/** In a few words: `turned 90° clockwise`. */
export function orientationWords(orientation: number): string {
  const { turn, flip } = uprightBy(orientation);
  return [turn === 0 ? '' : `turned ${turn}° clockwise`, flip === 'none' ? '' : `flipped ${flip}`]
    .filter(Boolean)
    .join(', ');
}
