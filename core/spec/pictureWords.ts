import {
  filterWords,
  isOverSource,
  type AlphaFrom,
  type Colour,
  type OverSource,
  type Picture,
  type Resize,
} from '../pixels/picture.ts';
import type { Shot, Spec } from './schema.ts';

/** What is done where a frame is missing. */
export const missingWords: Record<Spec['missing'], string> = {
  'leave-out': 'leave it out',
  stop: 'stop',
  hold: 'hold the one before',
  slate: 'put a slate',
};

/** What is done with pictures that differ from the others of their source. */
export const mixedWords = { stop: 'stop', fit: 'fit it', 'leave-out': 'leave it out' } as const;

/** A colour as the trade of screens writes it: `#1a2b3c`. */
export const hexOf = (colour: Colour): string =>
  `#${colour
    .map((value) =>
      Math.round(Math.min(1, Math.max(0, value)) * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;

/** The colour of `#1a2b3c`; undefined for anything else. */
export function colourOfHex(text: string): Colour | undefined {
  const match = /^#?([\da-f]{2})([\da-f]{2})([\da-f]{2})$/i.exec(text.trim());
  return match ? (match.slice(1).map((part) => parseInt(part, 16) / 255) as Colour) : undefined;
}

function resizeWords({ to, filter, light }: Resize): string {
  const how = `${filterWords[filter]}${light === 'linear' ? ', in linear light' : ''}`;
  switch (to.by) {
    case 'size':
      return `${to.width ?? 'in proportion'} x ${to.height ?? 'in proportion'}, ${how}`;
    case 'percent':
      return `${to.percent} %, ${how}`;
    case 'limit':
      return `within ${to.width} x ${to.height}, ${how}`;
    case 'square':
      return `to square pixels, ${how}`;
  }
}

const endsWords = { hold: 'its ends held', loop: 'begun again at its end', stop: 'as long as it lasts' };

/** How a second source goes along, in words. */
const alongWords = ({ offset, ends }: Pick<OverSource, 'offset' | 'ends'>): string =>
  [...(offset === 0 ? [] : [`${Math.abs(offset)} frames ${offset > 0 ? 'later' : 'earlier'}`]), endsWords[ends]].join(
    ', ',
  );

function alphaFromWords(from: AlphaFrom): string {
  const what = `${from.use} of ${from.source.name}${from.inverted ? ', inverted' : ''}`;
  return `${what}, ${alongWords(from)}${from.premultiplied ? ', colour premultiplied by it' : ''}`;
}

function overWords(over: NonNullable<Picture['over']>): string {
  if (!isOverSource(over)) return hexOf(over.colour);
  const fits = { within: 'fitted within', cover: 'covering', own: 'its own size' }[over.fit];
  return [
    over.source.name,
    fits,
    ...(over.scale === 100 ? [] : [`${over.scale} %`]),
    ...(over.rotation === 0 ? [] : [`turned ${over.rotation}°`]),
    ...(over.right === 0 && over.down === 0 ? [] : [`moved ${over.right}, ${over.down}`]),
    alongWords(over),
  ].join(', ');
}

const levelsWords = ({ black, white, gamma, exposure }: NonNullable<Picture['levels']>): string =>
  [
    ...(exposure === 0 ? [] : [`${exposure > 0 ? '+' : ''}${exposure} stops`]),
    ...(black.some((value) => value !== 0) ? [`black ${black.join(' ')}`] : []),
    ...(white.some((value) => value !== 1) ? [`white ${white.join(' ')}`] : []),
    ...(gamma.some((value) => value !== 1) ? [`gamma ${gamma.join(' ')}`] : []),
  ].join(', ') || 'none';

const ditherWords = { none: 'none', ordered: 'ordered', diffusion: 'error diffusion', 'blue-noise': 'blue noise' };

/** What is done to the picture, a row for each kind of work; `none` where it is left. The same labels for every spec. */
export function pictureRows(picture: Picture): [label: string, words: string][] {
  const { layer, alphaFrom, turn, flip, crop, key, resize, pad, over, levels, highlights, dither } = picture;
  const flips = { none: '', across: 'flipped left to right', down: 'flipped top to bottom' }[flip];
  return [
    ['Layer', layer ?? 'the main picture'],
    ['Alpha', alphaFrom ? alphaFromWords(alphaFrom) : 'its own'],
    ['Orientation', [turn ? `turned ${turn}°` : '', flips].filter(Boolean).join(', ') || 'as it is'],
    ['Crop', crop ? `${crop.width} x ${crop.height} from ${crop.left}, ${crop.top}` : 'none'],
    [
      'Key',
      key ? `${hexOf(key.colour)}, tolerance ${key.tolerance}, softness ${key.softness}, spill ${key.spill}` : 'none',
    ],
    ['Size', resize ? resizeWords(resize) : 'as it is'],
    [
      'Padding',
      pad ? `to multiples of ${pad.multiple}, ${pad.where === 'end' ? 'right and below' : 'around'}` : 'none',
    ],
    ['Laid over', over ? `${overWords(over)}${over.light === 'linear' ? ', in linear light' : ''}` : 'nothing'],
    ['Levels', levels ? levelsWords(levels) : 'none'],
    ['Light above 1', highlights === 'clip' ? 'clipped' : 'rolled off'],
    ['Dither', ditherWords[dither]],
  ];
}

/** The work that is done, in a few words each: for the sentence. Empty where the picture is left. */
export function pictureSaid(picture: Picture): string[] {
  const { layer, alphaFrom, turn, flip, crop, key, resize, pad, over, levels, highlights, dither } = picture;
  return [
    ...(layer === null ? [] : [`layer ${layer}`]),
    ...(alphaFrom ? [`alpha from ${alphaFrom.source.name}`] : []),
    ...(turn === 0 ? [] : [`turned ${turn}°`]),
    ...(flip === 'none' ? [] : [flip === 'across' ? 'flipped left to right' : 'flipped top to bottom']),
    ...(crop ? [`cropped to ${crop.width} x ${crop.height}`] : []),
    ...(key ? [`keyed on ${hexOf(key.colour)}`] : []),
    ...(resize ? [`resized ${resizeWords(resize).replace(/,.*/, '')}`] : []),
    ...(pad ? [`padded to multiples of ${pad.multiple}`] : []),
    ...(over ? [`over ${isOverSource(over) ? over.source.name : hexOf(over.colour)}`] : []),
    ...(levels ? ['with levels'] : []),
    ...(highlights === 'clip' ? [] : ['highlights rolled off']),
    ...(dither === 'none' ? [] : [`dithered by ${ditherWords[dither]}`]),
  ];
}

/** A source that follows another, in a few words: its name, and what of it is taken. */
export const shotWords = ({ source, frames }: Shot): string =>
  frames === 'all' ? source.name : `${source.name} ${frames}`;
