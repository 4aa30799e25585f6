import { z } from 'zod';
import { rearrange, withAlpha, withTakenAlpha, type Others } from './convert.ts';
import { fullAlpha, hasAlphaChannel, type Image } from './image.ts';
import type { PixelCounts, Recipe } from './recipe.ts';
import { markBits, type Marks } from './ending.ts';
import { makeWorkshop } from './workshop.ts';

/** What is looked at of a result: itself, its alpha, where alpha is clear, partly so or full, and where something is lost. */
export const lookViewSchema = z.enum(['result', 'matte', 'status', 'losses']);
export type LookView = z.infer<typeof lookViewSchema>;

/** A result with where in it something is lost: a byte of {@link markBits} a pixel. */
export interface Looked {
  image: Image;
  counts: PixelCounts;
  marks: Uint8Array;
}

/** One frame worked for looking: what {@link makeConverter} makes of it, but for the last bit, and where it loses something. */
export function lookAtResult(image: Image, recipe: Recipe, others: Others = {}): Looked {
  const marks: Marks = { bits: new Uint8Array(0) };
  const arranged = rearrange(withAlpha(image, recipe, others), recipe, true);
  const work = makeWorkshop(withTakenAlpha(recipe));
  const { image: result, counts } = work(arranged, { marks, under: others.under });
  return { image: result, counts, marks: marks.bits };
}

/** Colours of the marks, the gravest first where a pixel has several: 8-bit sRGB. */
export const markColours: readonly (readonly [bit: number, colour: readonly [number, number, number]])[] = [
  [markBits.notNumber, [201, 138, 27]],
  [markBits.high, [194, 59, 34]],
  [markBits.low, [15, 123, 108]],
  [markBits.alpha, [241, 234, 216]],
];

/** The tones of clear, partly clear and full alpha. */
export const statusTones = { clear: [18, 20, 20], partly: [201, 138, 27], full: [228, 224, 214] } as const;

/** An 8-bit RGB picture of a size, each of whose pixels takes its colour from the part of the source that it covers. */
function painted(
  source: { width: number; height: number },
  width: number,
  paint: (pixels: (visit: (at: number) => void) => void) => readonly [number, number, number],
): Image {
  const across = Math.min(width, source.width);
  const down = Math.max(1, Math.round((source.height * across) / source.width));
  const data = new Uint8Array(across * down * 3);
  const edge = (at: number, of: number, from: number) => Math.floor((at * from) / of);
  for (let y = 0, to = 0; y < down; y += 1) {
    for (let x = 0; x < across; x += 1, to += 3) {
      const [left, right] = [
        edge(x, across, source.width),
        Math.max(edge(x, across, source.width) + 1, edge(x + 1, across, source.width)),
      ];
      const [top, bottom] = [
        edge(y, down, source.height),
        Math.max(edge(y, down, source.height) + 1, edge(y + 1, down, source.height)),
      ];
      data.set(
        paint((visit) => {
          for (let row = top; row < bottom; row += 1)
            for (let column = left; column < right; column += 1) visit(row * source.width + column);
        }),
        to,
      );
    }
  }
  return { width: across, height: down, channels: 3, sample: 'u8', data };
}

/**
 * Where something is lost: the picture as dim grey, and over it the marks, of which none is lost by making it smaller.
 * @param shown the result as 8-bit sRGB
 */
export function lossPicture(shown: Image, marks: Uint8Array, width: number): Image {
  const { channels, data } = shown;
  return painted(shown, width, (pixels) => {
    let bits = 0;
    let sum = 0;
    let count = 0;
    pixels((at) => {
      bits |= marks[at]!;
      sum += data[at * channels + (channels >= 3 ? 1 : 0)]!;
      count += 1;
    });
    const mark = markColours.find(([bit]) => (bits & bit) !== 0);
    if (mark) return mark[1];
    const grey = 24 + Math.round((sum / count) * 0.35);
    return [grey, grey, grey];
  });
}

/** Clear, partly clear and full alpha as three tones; where a part has several, partly goes first. */
export function statusPicture(image: Image, width: number): Image {
  const { channels, data } = image;
  const full = fullAlpha(image);
  return painted(image, width, (pixels) => {
    if (!hasAlphaChannel(image)) return statusTones.full;
    let clear = 0;
    let whole = 0;
    let count = 0;
    pixels((at) => {
      const alpha = data[at * channels + channels - 1]!;
      count += 1;
      if (alpha === 0) clear += 1;
      else if (alpha >= full) whole += 1;
    });
    return clear === count ? statusTones.clear : whole === count ? statusTones.full : statusTones.partly;
  });
}

/** Alpha alone as a grey picture, full throughout where there is none. */
export function alphaPicture(image: Image): Image {
  const { width, height, channels, sample, data } = image;
  const alpha = data.slice(0, width * height);
  const full = fullAlpha(image);
  for (let at = 0; at < alpha.length; at += 1)
    alpha[at] = hasAlphaChannel(image) ? data[at * channels + channels - 1]! : full;
  return { width, height, channels: 1, sample, data: alpha };
}
