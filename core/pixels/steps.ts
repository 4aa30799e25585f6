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
  type Picture,
  type Resize,
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
  | { do: 'over-picture'; over: OverSource; transfer: DeclaredTransfer; size: Size }
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

/** A course while it is laid: what the canvas is when it comes to the next step. */
class Laying {
  readonly steps: Step[] = [];
  readonly colours: 1 | 3;
  alpha: Canvas['alpha'];
  transfer: DeclaredTransfer;
  size: Size;

  constructor(
    readonly recipe: Recipe,
    shape: Shape,
  ) {
    this.colours = shape.channels <= 2 ? 1 : 3;
    this.alpha = hasAlphaChannel(shape) ? canvasAlpha(recipe.from.alpha) : 'none';
    this.transfer = recipe.from.transfer;
    this.size = { width: shape.width, height: shape.height };
  }

  into(to: DeclaredTransfer): void {
    const { transfer: from, alpha } = this;
    if (to !== from) this.steps.push({ do: 'curve', from, to, isShared: alpha === 'premultiplied' });
    this.transfer = to;
  }

  divide(): void {
    if (this.alpha !== 'premultiplied') return;
    this.steps.push({ do: 'divide' });
    this.alpha = 'straight';
  }

  multiply(): void {
    if (this.alpha !== 'straight') return;
    this.steps.push({ do: 'multiply' });
    this.alpha = 'premultiplied';
  }

  key(key: Key): void {
    this.divide();
    this.steps.push({ do: 'key', key, transfer: this.transfer });
    this.alpha = 'straight';
  }

  /** Colours with alpha are mixed premultiplied, so that what is clear does not bleed in. */
  resize(resize: Resize): void {
    const { from, picture } = this.recipe;
    if (resize.filter === 'nearest') return;
    if (resize.light === 'linear') this.into('linear');
    this.multiply();
    this.size = resizedSize(this.size, resize, turnedAspect(from.pixelAspect, picture));
    this.steps.push({ do: 'resize', size: this.size, filter: resize.filter });
  }

  pad({ where }: NonNullable<Picture['pad']>): void {
    const size = sizeAfter(this.size, { ...this.recipe.picture, turn: 0, crop: null, resize: null });
    this.steps.push({ do: 'pad', size, ...padding(this.size, size, where), isOpaque: this.alpha === 'none' });
    this.size = size;
  }

  over(over: NonNullable<Picture['over']>): void {
    const { from } = this.recipe;
    const hasAlpha = this.alpha !== 'none';
    if (hasAlpha) this.steps.push({ do: 'count-clear' });
    this.into(over.light === 'linear' ? 'linear' : from.transfer);
    this.multiply();
    const { transfer, colours, size } = this;
    if (isOverSource(over)) this.steps.push({ do: 'over-picture', over, transfer, size });
    else {
      const colour = colourIn({ transfer, primaries: from.primaries, colours }, over.colour);
      if (hasAlpha) this.steps.push({ do: 'over-colour', colour });
      this.alpha = 'none';
    }
  }

  /** Exposure on light, then black, white and gamma on values as stored. */
  levels({ exposure, ...levels }: Levels): void {
    if (exposure !== 0) {
      this.into('linear');
      this.steps.push({ do: 'scale', factor: 2 ** exposure });
    }
    const { black, white, gamma } = levels;
    const rests = [0, 1, 2].every((at) => black[at] === 0 && white[at] === 1 && gamma[at] === 1);
    if (rests) return;
    this.into(this.recipe.from.transfer);
    this.divide();
    this.steps.push({ do: 'levels', levels });
  }

  rollOff(): void {
    this.into('linear');
    this.divide();
    this.steps.push({ do: 'roll-off' });
  }

  /** @returns the matrix where it is to be worked in doubles, before any step */
  matrix(matrix: Matrix3, sample: Image['sample']): Matrix3 | undefined {
    // Where a matrix's terms nearly cancel out, floats between codes and light would be off by a tenth of a 16-bit step.
    const isCoded = sample !== 'f32' && this.colours === 3 && this.alpha !== 'premultiplied';
    if (this.steps.length === 0 && isCoded) {
      this.transfer = 'linear';
      return matrix;
    }
    this.into('linear');
    if (this.colours === 3) this.steps.push({ do: 'matrix', matrix });
    return undefined;
  }
}

/**
 * The steps of a recipe for pictures that are turned and cropped already, in the design's order. Alpha is divided and multiplied in the
 * space in which colours are stored, or in light where they come to be that: either gives the same colour.
 */
export function courseOf(recipe: Recipe, shape: Shape): Course {
  const { from, picture, to } = recipe;
  const laying = new Laying(recipe, shape);
  if (from.alpha === 'on-colour' && laying.alpha !== 'none')
    laying.steps.push({ do: 'off-colour', matte: from.matte ?? [0, 0, 0] });
  if (picture.key) laying.key(picture.key);
  if (picture.resize) laying.resize(picture.resize);
  if (picture.pad) laying.pad(picture.pad);
  if (picture.over) laying.over(picture.over);
  if (picture.levels) laying.levels(picture.levels);
  const matrix = primariesBetween(from.primaries, to.primaries);
  const light = matrix && laying.matrix(matrix, shape.sample);
  if (picture.highlights === 'roll-off') laying.rollOff();
  const { steps, alpha, transfer } = laying;
  return { light, steps, alpha, transfer };
}
