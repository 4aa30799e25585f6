import type { DeclaredTransfer } from './colourNames.ts';
import { canvasAlpha, type Canvas } from './canvas.ts';
import { padding } from './geometry.ts';
import { hasAlphaChannel, type Image } from './image.ts';
import { colourIn } from './layOver.ts';
import {
  isOverSource,
  resizedSize,
  sizeAfter,
  turnedAspect,
  type Filter,
  type Key,
  type Levels,
  type OverSource,
  type Size,
} from './picture.ts';
import { primariesBetween, type Matrix3 } from './primaries.ts';
import type { Recipe } from './recipe.ts';

/**
 * One step of work on a canvas, as plain data: what alpha and curve are at each is known before the first picture, so that a compiled
 * form carries out the same list.
 */
export type Step =
  /** To another curve; colour that alpha is multiplied into is divided before and multiplied again. */
  | { do: 'curve'; from: DeclaredTransfer; to: DeclaredTransfer; isShared: boolean }
  /** Colour divided by its alpha, and multiplied with it. */
  | { do: 'divide' | 'multiply' }
  /** What shows through of a colour that the picture lay on is taken away. */
  | { do: 'off-colour'; matte: readonly number[] }
  | { do: 'key'; key: Key; transfer: DeclaredTransfer }
  /** Premultiplied, or without alpha. */
  | { do: 'resize'; size: Size; filter: Exclude<Filter, 'nearest'> }
  | { do: 'pad'; size: Size; left: number; top: number; isOpaque: boolean }
  /** Pixels that are not opaque are counted: their alpha is about to go. */
  | { do: 'count-clear' }
  | { do: 'over-colour'; colour: readonly number[] }
  /** `alpha` becomes none where all is opaque. */
  | { do: 'over-picture'; over: OverSource; transfer: DeclaredTransfer }
  /** Every colour by a factor. */
  | { do: 'scale'; factor: number }
  | { do: 'levels'; levels: Pick<Levels, 'black' | 'white' | 'gamma'> }
  | { do: 'matrix'; matrix: Matrix3 }
  /** What is brighter than the knee is bent towards 1. */
  | { do: 'roll-off' };

/** Everything that a canvas goes through, and what it is in the end. */
export interface Course {
  /** A matrix that is worked in doubles on the way from codes to light, with which the course begins. */
  light: Matrix3 | undefined;
  steps: Step[];
  alpha: Canvas['alpha'];
  transfer: DeclaredTransfer;
}

/** What of a picture decides which steps there are. */
export type Shape = Pick<Image, 'width' | 'height' | 'channels' | 'sample'>;

/**
 * The steps of a recipe for pictures that are turned and cropped already, in the design's order. Alpha is divided and multiplied in the
 * space in which colours are stored, or in light where they come to be that: either gives the same colour.
 */
export function courseOf(recipe: Recipe, shape: Shape): Course {
  const { from, picture, to } = recipe;
  const steps: Step[] = [];
  const matrix = primariesBetween(from.primaries, to.primaries);
  const colours = shape.channels <= 2 ? 1 : 3;
  let alpha: Canvas['alpha'] = hasAlphaChannel(shape) ? canvasAlpha(from.alpha) : 'none';
  let { transfer } = from;
  let size: Size = { width: shape.width, height: shape.height };
  const into = (next: DeclaredTransfer) => {
    if (next !== transfer) steps.push({ do: 'curve', from: transfer, to: next, isShared: alpha === 'premultiplied' });
    transfer = next;
  };
  const divide = () => {
    if (alpha !== 'premultiplied') return;
    steps.push({ do: 'divide' });
    alpha = 'straight';
  };
  const multiply = () => {
    if (alpha !== 'straight') return;
    steps.push({ do: 'multiply' });
    alpha = 'premultiplied';
  };

  if (from.alpha === 'on-colour' && alpha !== 'none') steps.push({ do: 'off-colour', matte: from.matte ?? [0, 0, 0] });
  if (picture.key) {
    divide();
    steps.push({ do: 'key', key: picture.key, transfer });
    alpha = 'straight';
  }
  const { resize, pad, over, levels } = picture;
  if (resize && resize.filter !== 'nearest') {
    if (resize.light === 'linear') into('linear');
    multiply();
    size = resizedSize(size, resize, turnedAspect(from.pixelAspect, picture));
    steps.push({ do: 'resize', size, filter: resize.filter });
  }
  if (pad) {
    const padded = sizeAfter(size, { ...picture, turn: 0, crop: null, resize: null });
    steps.push({ do: 'pad', size: padded, ...padding(size, padded, pad.where), isOpaque: alpha === 'none' });
    size = padded;
  }
  if (over) {
    if (alpha !== 'none') steps.push({ do: 'count-clear' });
    into(over.light === 'linear' ? 'linear' : from.transfer);
    multiply();
    if (isOverSource(over)) {
      steps.push({ do: 'over-picture', over, transfer });
      if (alpha !== 'none') alpha = 'premultiplied';
    } else {
      if (alpha !== 'none') {
        const taken = { transfer, primaries: from.primaries, colours } as const;
        steps.push({ do: 'over-colour', colour: colourIn(taken, over.colour) });
      }
      alpha = 'none';
    }
  }
  if (levels) {
    const { exposure, black, white, gamma } = levels;
    if (exposure !== 0) {
      into('linear');
      steps.push({ do: 'scale', factor: 2 ** exposure });
    }
    if (!(
      black.every((value) => value === 0) &&
      white.every((value) => value === 1) &&
      gamma.every((one) => one === 1)
    )) {
      into(from.transfer);
      divide();
      steps.push({ do: 'levels', levels: { black, white, gamma } });
    }
  }
  // Where a matrix's terms nearly cancel out, floats between codes and light would be off by a tenth of a 16-bit step.
  const isCoded = shape.sample !== 'f32' && colours === 3 && alpha !== 'premultiplied';
  const light = matrix && steps.length === 0 && isCoded ? matrix : undefined;
  if (light) transfer = 'linear';
  else if (matrix) {
    into('linear');
    if (colours === 3) steps.push({ do: 'matrix', matrix });
  }
  if (picture.highlights === 'roll-off') {
    into('linear');
    divide();
    steps.push({ do: 'roll-off' });
  }
  return { light, steps, alpha, transfer };
}
