import type { Steps } from './quantise.ts';
import { guessParts } from './quantise.ts';
import { note, type PixelCounts } from './recipe.ts';

/**
 * The two commonest conversions, with a pixel read as two words and written as one: memory is asked a third as often as
 * sample by sample. They give what the plain loops of convert.ts give; its tests hold both to the same numbers.
 */

/** Whether samples lie in memory with their low byte first, as on every machine that Node runs on today. */
const littleEndian = new Uint8Array(new Uint16Array([1]).buffer)[0] === 1;

/** The samples as 32-bit words; undefined where they do not begin on one. */
function words(samples: Uint8Array | Uint16Array): Uint32Array | undefined {
  if (!littleEndian || samples.byteOffset % 4 !== 0 || samples.byteLength % 4 !== 0) return undefined;
  return new Uint32Array(samples.buffer, samples.byteOffset, samples.byteLength / 4);
}

/** `round(v * 255 / 65535)` of a 16-bit sample: exact by integers, since (v * 255 + 32895) div 65536 is (v + 128) div 257. */
const narrow = (sample: number): number => (sample * 255 + 32_895) >>> 16;

/** RGBA of 16 bits to 8. @returns false where memory does not allow it; nothing is done then */
function narrowRgba(source: Uint16Array, data: Uint8Array): boolean {
  const from = words(source);
  const to = words(data);
  if (!from || !to) return false;
  for (let pixel = 0; pixel < to.length; pixel += 1) {
    const redGreen = from[pixel * 2]!;
    const blueAlpha = from[pixel * 2 + 1]!;
    to[pixel] =
      narrow(redGreen & 0xffff) |
      (narrow(redGreen >>> 16) << 8) |
      (narrow(blueAlpha & 0xffff) << 16) |
      (narrow(blueAlpha >>> 16) << 24);
  }
  return true;
}

/** Half-float codes of 1: codes up to it are values from 0 to 1. */
const one = 0x3c00;

/** What {@link divideRgba} looks up, by half-float code. */
export interface DivideTables {
  colour: Uint8Array;
  alpha: Uint8Array;
  /** 0 within 0..1, 1 below, 2 above, 3 not a number. */
  outside: Uint8Array;
  values: Float32Array;
  steps: Steps;
}

/**
 * Premultiplied RGBA in half floats to straight 8 bits. Opaque pixels and those without alpha take the colour table,
 * the others are divided. @returns false where memory does not allow it; nothing is done then
 */
function divideRgba(source: Uint16Array, data: Uint8Array, tables: DivideTables, counts: PixelCounts): boolean {
  const from = words(source);
  const to = words(data);
  if (!from || !to) return false;
  const { colour, alpha, outside, values } = tables;
  const { bounds, guesses, max } = tables.steps;
  let glow = 0;

  /** The code of a divided colour. */
  const divided = (value: number, channel: number): number => {
    if (value >= 0 && value < 1) {
      let step = guesses[(value * guessParts) | 0]!;
      while (value >= bounds[step + 1]!) step += 1;
      return step;
    }
    if (value !== 1) note(counts, value > 1 ? 2 : value < 0 ? 1 : 3, channel);
    return value >= 1 ? max : 0;
  };

  for (let pixel = 0; pixel < to.length; pixel += 1) {
    const redGreen = from[pixel * 2]!;
    const blueAlpha = from[pixel * 2 + 1]!;
    const red = redGreen & 0xffff;
    const green = redGreen >>> 16;
    const blue = blueAlpha & 0xffff;
    const stored = blueAlpha >>> 16;
    const share = values[stored]!;
    if (stored === one || !(share > 0)) {
      to[pixel] = colour[red]! | (colour[green]! << 8) | (colour[blue]! << 16) | (alpha[stored]! << 24);
      if (red > one || green > one || blue > one) {
        note(counts, outside[red]!, 0);
        note(counts, outside[green]!, 1);
        note(counts, outside[blue]!, 2);
      }
      if (stored !== one && (redGreen !== 0 || blue !== 0)) {
        if (values[red]! > 0 || values[green]! > 0 || values[blue]! > 0) glow += 1;
      }
      continue;
    }
    to[pixel] =
      divided(values[red]! / share, 0) |
      (divided(values[green]! / share, 1) << 8) |
      (divided(values[blue]! / share, 2) << 16) |
      (alpha[stored]! << 24);
  }
  counts.glow += glow;
  return true;
}

/** The quick ways, so that a compiled form of them may take their place. Each says whether it did the work. */
export interface Kernels {
  narrowRgba(source: Uint16Array, data: Uint8Array): boolean;
  divideRgba(source: Uint16Array, data: Uint8Array, tables: DivideTables, counts: PixelCounts): boolean;
}

export const plainKernels: Kernels = { narrowRgba, divideRgba };
