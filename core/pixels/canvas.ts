import { filled } from './filled.ts';
import type { AlphaKind, DeclaredTransfer, Primaries } from './colourNames.ts';
import { halfTable } from './half.ts';
import { hasAlphaChannel, maxCode, type Image } from './image.ts';
import { lumaOf } from './luma.ts';
import { primariesBetween, type Matrix3 } from './primaries.ts';
import type { Floats } from './resample.ts';
import { curves, quickToLinear, transferBetween } from './transfer.ts';

/** A picture at work, in floats: one or three colours and an alpha in every pixel, 1 where the picture has none. */
export interface Canvas extends Floats {
  colours: 1 | 3;
  /** How colour relates to alpha; `none` where there is no alpha. */
  alpha: 'none' | 'straight' | 'premultiplied';
  /** What the colours are now. */
  transfer: DeclaredTransfer;
  primaries: Primaries;
}

/** Alpha of a canvas by what a picture is taken to be; what lies on a colour is premultiplied once that is taken off. */
export function canvasAlpha(alpha: AlphaKind): Canvas['alpha'] {
  if (alpha === 'on-colour') return 'premultiplied';
  return alpha === 'straight' || alpha === 'premultiplied' ? alpha : 'none';
}

const integerValues = new Map<number, Float64Array>();

/** The value of every code of a format of 16 bits or fewer, made once; undefined for floats, which are their own. */
export function valueTable(sample: Image['sample']): Float32Array | Float64Array | undefined {
  if (sample === 'f32') return undefined;
  const max = maxCode(sample);
  if (max === undefined) return halfTable();
  let values = integerValues.get(max);
  if (!values) integerValues.set(max, (values = filled(new Float64Array(max + 1), (code) => code / max)));
  return values;
}

const lightTables = new Map<string, Float64Array>();

/** The light of every code of a format of 16 bits or fewer; undefined for floats. */
export function lightTable(sample: Image['sample'], transfer: DeclaredTransfer): Float64Array | undefined {
  const values = valueTable(sample);
  if (!values) return undefined;
  const key = `${sample} ${transfer}`;
  let light = lightTables.get(key);
  if (!light) {
    const { toLinear } = curves[transfer];
    lightTables.set(key, (light = filled(new Float64Array(values.length), (code) => toLinear(values[code]!))));
  }
  return light;
}

/**
 * A picture's samples as light of other primaries, worked in doubles from code to light: where a matrix's terms nearly cancel out,
 * floats between would be off by a tenth of a 16-bit step. For codes of colour that alpha has not been multiplied into: its light is
 * its code's.
 */
export function toLightOf(
  image: Image,
  { transfer, alpha: said }: Pick<Canvas, 'transfer' | 'alpha'>,
  primaries: Primaries,
  [[a, b, c], [d, e, f], [g, h, i]]: Matrix3,
): Canvas {
  const { width, height, channels, data: source } = image;
  const alpha = hasAlphaChannel(image) ? said : 'none';
  const values = valueTable(image.sample)!;
  const light = lightTable(image.sample, transfer)!;
  const data = new Float32Array(width * height * 4);
  for (let at = 0, to = 0; at < source.length; at += channels, to += 4) {
    const red = light[source[at]!]!;
    const green = light[source[at + 1]!]!;
    const blue = light[source[at + 2]!]!;
    data[to] = a * red + b * green + c * blue;
    data[to + 1] = d * red + e * green + f * blue;
    data[to + 2] = g * red + h * green + i * blue;
    data[to + 3] = alpha === 'none' ? 1 : values[source[at + 3]!]!;
  }
  return { width, height, colours: 3, stride: 4, data, transfer: 'linear', primaries, alpha };
}

/** A picture's samples as values. */
export function toCanvas(image: Image, from: Pick<Canvas, 'transfer' | 'primaries' | 'alpha'>): Canvas {
  const { width, height, channels, data: source } = image;
  const colours = channels <= 2 ? 1 : 3;
  const stride = colours + 1;
  const data = new Float32Array(width * height * stride);
  const values = valueTable(image.sample);
  const alpha = hasAlphaChannel(image) ? from.alpha : 'none';
  if (values && channels === stride && alpha !== 'none') {
    // Every sample by the table, one after another.
    for (let at = 0; at < source.length; at += 1) data[at] = values[source[at]!]!;
    return { width, height, colours, stride, data, ...from, alpha };
  }
  for (let at = 0, to = 0; at < source.length; at += channels, to += stride) {
    for (let channel = 0; channel < colours; channel += 1) {
      const stored = source[at + channel]!;
      data[to + channel] = values ? values[stored]! : stored;
    }
    const stored = alpha === 'none' ? undefined : source[at + colours]!;
    data[to + colours] = stored === undefined ? 1 : values ? values[stored]! : stored;
  }
  return { width, height, colours, stride, data, ...from, alpha };
}

/** Divides colour by alpha, in place. Where alpha is 0 or less colour stays as it is. */
export function toStraight(canvas: Canvas): void {
  if (canvas.alpha !== 'premultiplied') return;
  const { data, stride } = canvas;
  for (let at = 0; at < data.length; at += stride) {
    const alpha = data[at + stride - 1]!;
    if (alpha === 1 || !(alpha > 0)) continue;
    for (let channel = 0; channel < stride - 1; channel += 1) data[at + channel]! /= alpha;
  }
  canvas.alpha = 'straight';
}

/** Multiplies colour by alpha, in place. */
export function toPremultiplied(canvas: Canvas): void {
  if (canvas.alpha !== 'straight') return;
  const { data, stride } = canvas;
  for (let at = 0; at < data.length; at += stride) {
    const alpha = data[at + stride - 1]!;
    if (alpha === 1) continue;
    for (let channel = 0; channel < stride - 1; channel += 1) data[at + channel]! *= alpha;
  }
  canvas.alpha = 'premultiplied';
}

/** Applies a function to every colour, in place; alpha is left. */
export function eachColour(canvas: Canvas, work: (value: number, channel: number) => number): void {
  const { data, stride } = canvas;
  for (let at = 0; at < data.length; at += stride)
    for (let channel = 0; channel < stride - 1; channel += 1) data[at + channel] = work(data[at + channel]!, channel);
}

/**
 * Brings the colours to another curve, in place. Premultiplied colour is divided before and multiplied again after, since a
 * curve holds for colour and not for its share; where alpha is 0 the curve takes the colour as it is.
 */
export function toTransfer(canvas: Canvas, transfer: DeclaredTransfer): void {
  if (canvas.transfer === transfer) return;
  const curve = transfer === 'linear' ? quickToLinear(canvas.transfer) : transferBetween(canvas.transfer, transfer);
  if (canvas.alpha !== 'premultiplied') eachColour(canvas, curve);
  else {
    const { data, stride } = canvas;
    for (let at = 0; at < data.length; at += stride) {
      const alpha = data[at + stride - 1]!;
      const share = alpha > 0 ? alpha : 1;
      for (let channel = 0; channel < stride - 1; channel += 1)
        data[at + channel] = curve(data[at + channel]! / share) * share;
    }
  }
  canvas.transfer = transfer;
}

/** Brings linear colours to other primaries, in place; grey stays as it is. */
export function toPrimaries(canvas: Canvas, primaries: Primaries, matrix: Matrix3 | undefined): void {
  if (matrix && canvas.colours === 3) {
    const { data, stride } = canvas;
    const [[a, b, c], [d, e, f], [g, h, i]] = matrix;
    for (let at = 0; at < data.length; at += stride) {
      const red = data[at]!;
      const green = data[at + 1]!;
      const blue = data[at + 2]!;
      data[at] = a * red + b * green + c * blue;
      data[at + 1] = d * red + e * green + f * blue;
      data[at + 2] = g * red + h * green + i * blue;
    }
  }
  canvas.primaries = primaries;
}

/** Takes the share of a colour that shows through away, in place: what is left is premultiplied on black. */
export function offColour(canvas: Canvas, matte: readonly number[]): void {
  const { data, stride } = canvas;
  for (let at = 0; at < data.length; at += stride) {
    const through = 1 - data[at + stride - 1]!;
    for (let channel = 0; channel < stride - 1; channel += 1) data[at + channel]! -= through * matte[channel]!;
  }
}

/** A picture as a canvas, by what it is taken to be: premultiplied on black where it lay on a colour. */
export function takenCanvas(
  image: Image,
  {
    transfer,
    primaries,
    alpha,
    matte,
  }: Pick<Canvas, 'transfer' | 'primaries'> & { alpha: AlphaKind; matte: readonly number[] | null },
): Canvas {
  const canvas = toCanvas(image, { transfer, primaries, alpha: canvasAlpha(alpha) });
  if (alpha === 'on-colour') offColour(canvas, matte ?? [0, 0, 0]);
  return canvas;
}

/** Brings the colours to other primaries and another curve, in place; other primaries by way of light. */
export function toColours(canvas: Canvas, { transfer, primaries }: Pick<Canvas, 'transfer' | 'primaries'>): void {
  const matrix = primariesBetween(canvas.primaries, primaries);
  if (matrix) {
    toTransfer(canvas, 'linear');
    toPrimaries(canvas, primaries, matrix);
  }
  toTransfer(canvas, transfer);
}

/** A picture with as many colours as asked: grey as three, three as their luma. */
export function inColours(canvas: Canvas, colours: 1 | 3): Canvas {
  if (canvas.colours === colours) return canvas;
  const pixels = canvas.width * canvas.height;
  const data = new Float32Array(pixels * (colours + 1));
  for (let pixel = 0; pixel < pixels; pixel += 1) {
    const from = pixel * canvas.stride;
    const to = pixel * (colours + 1);
    if (colours === 3) data.fill(canvas.data[from]!, to, to + 3);
    else data[to] = lumaOf(canvas.data[from]!, canvas.data[from + 1]!, canvas.data[from + 2]!);
    data[to + colours] = canvas.data[from + canvas.stride - 1]!;
  }
  return { ...canvas, colours, stride: colours + 1, data };
}
