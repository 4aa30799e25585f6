import { inColours, takenCanvas, toColours, toPremultiplied, type Canvas } from './canvas.ts';
import type { Image } from './image.ts';
import { lumaOf } from './luma.ts';
import type { OverSource, Size } from './picture.ts';
import type { Recipe } from './recipe.ts';
import { resample, type Floats, type ResamplePass } from './resample.ts';

/** An sRGB colour in a canvas's transfer and primaries; for grey its luma. */
export function colourIn(
  { transfer, primaries, colours }: Pick<Canvas, 'transfer' | 'primaries' | 'colours'>,
  colour: readonly [number, number, number],
): number[] {
  const one: Canvas = {
    width: 1,
    height: 1,
    stride: 4,
    colours: 3,
    data: Float32Array.of(...colour, 1),
    alpha: 'none',
    transfer: 'srgb',
    primaries: 'bt709',
  };
  toColours(one, { transfer, primaries });
  const [red, green, blue] = one.data as unknown as [number, number, number];
  return colours === 3 ? [red, green, blue] : [lumaOf(red, green, blue)];
}

/** Lays a premultiplied picture over a colour, in place: it has no alpha any more. */
export function overColour(canvas: Canvas, below: readonly number[]): void {
  const { data, stride } = canvas;
  for (let at = 0; at < data.length; at += stride) {
    const through = 1 - data[at + stride - 1]!;
    if (through === 0) continue;
    for (let channel = 0; channel < stride - 1; channel += 1) data[at + channel]! += below[channel]! * through;
    data[at + stride - 1] = 1;
  }
  canvas.alpha = 'none';
}

/** Both premultiplied: what shows through is added, in place, alpha too. Where all is opaque then there is no alpha any more. */
export function overPicture(canvas: Canvas, below: Float32Array): void {
  const { data, stride } = canvas;
  let whole = true;
  for (let at = 0; at < data.length; at += stride) {
    const through = 1 - data[at + stride - 1]!;
    if (through === 0) continue;
    for (let sample = 0; sample < stride; sample += 1) data[at + sample]! += below[at + sample]! * through;
    whole &&= data[at + stride - 1] === 1;
  }
  canvas.alpha = whole ? 'none' : 'premultiplied';
}

/** The size that the picture below takes before it is turned. */
export function sizeBelow(from: Size, canvas: Size, { fit, scale }: OverSource): Size {
  const [across, down] = [canvas.width / from.width, canvas.height / from.height];
  const factor =
    (fit === 'own' ? 1 : fit === 'cover' ? Math.max(across, down) : Math.min(across, down)) * (scale / 100);
  return {
    width: Math.max(1, Math.round(from.width * factor)),
    height: Math.max(1, Math.round(from.height * factor)),
  };
}

/** What lies below, premultiplied, in a canvas's curve, primaries, colours and size; clear where it does not reach. */
export function belowPicture(
  canvas: Pick<Canvas, 'width' | 'height' | 'colours' | 'transfer' | 'primaries'>,
  under: Image | undefined,
  over: OverSource,
  { under: taken }: Pick<Recipe, 'under'>,
  pass?: ResamplePass,
): Float32Array {
  if (!under) throw new Error('there is no picture to lay it over');
  if (!taken) throw new Error('nothing is known of the picture to lay it over');
  const below = inColours(takenCanvas(under, taken), canvas.colours);
  toColours(below, canvas);
  toPremultiplied(below);
  const size = sizeBelow(below, canvas, over);
  return inPlace(resample(below, size, 'lanczos', pass), canvas, over);
}

/** A picture moved and turned about the middle of another's size; whole pixels where that is enough, else linear between four. */
function inPlace(source: Floats, { width, height }: Size, { right, down, rotation }: OverSource): Float32Array {
  const { stride, data: from } = source;
  const data = new Float32Array(width * height * stride);
  const angle = (rotation * Math.PI) / 180;
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  const [middleX, middleY] = [width / 2 + right, height / 2 + down];
  const isInItsPlace = source.width === width && source.height === height && right === 0 && down === 0;
  if (isInItsPlace && rotation === 0) return from;
  for (let y = 0, to = 0; y < height; y += 1) {
    for (let x = 0; x < width; x += 1, to += stride) {
      const [dx, dy] = [x + 0.5 - middleX, y + 0.5 - middleY];
      // Back through the turn to the place in the source.
      const sx = cos * dx + sin * dy + source.width / 2 - 0.5;
      const sy = -sin * dx + cos * dy + source.height / 2 - 0.5;
      const [left, top] = [Math.floor(sx + 1e-6), Math.floor(sy + 1e-6)];
      const [shareX, shareY] = [sx - left, sy - top];
      for (let corner = 0; corner < 4; corner += 1) {
        const [column, row] = [left + (corner & 1), top + (corner >> 1)];
        const weight = (corner & 1 ? shareX : 1 - shareX) * (corner >> 1 ? shareY : 1 - shareY);
        if (weight < 1e-5 || column < 0 || row < 0 || column >= source.width || row >= source.height) continue;
        // A weight that is nearly all is all: float arithmetic left the rest.
        const share = weight > 1 - 1e-5 ? 1 : weight;
        const at = (row * source.width + column) * stride;
        for (let sample = 0; sample < stride; sample += 1) data[to + sample]! += from[at + sample]! * share;
      }
    }
  }
  return data;
}
