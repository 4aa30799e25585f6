import { lumaOf } from '../pixels/luma.ts';
import { linearToSrgb } from '../pixels/transfer.ts';
import { halfTable } from '../pixels/half.ts';
import { warningBits, type View } from './view.ts';
import { halvesIn, unpackView, type PackedView } from './wire.ts';

/** What is shown of a picture: its colours, one of its channels as grey, its alpha, or its luminance. */
export const shownChannels = ['colour', 'red', 'green', 'blue', 'alpha', 'luminance'] as const;
export type ShownChannel = (typeof shownChannels)[number];

/** How a picture is looked at. Nothing of it changes a file. */
export interface Looking {
  channel: ShownChannel;
  /** Stops: light is multiplied by 2 to the power of it. */
  exposure: number;
  /** The displayed value is taken to the power of 1 / gamma; above 0, 1 leaves it. */
  gamma: number;
  /** Whether clipped and out-of-range pixels are painted over. */
  warns: boolean;
}

export const plainLooking: Looking = { channel: 'colour', exposure: 0, gamma: 1, warns: false };

/** Parts of light 0 to 1 that the displayed value is looked up for: finer than any 16-bit code. */
export const displayParts = 65_536;

/** The last few tables: an exposure that is dragged leaves the gamma alone. */
const tables = new Map<number, Uint8ClampedArray>();

/** 8-bit display values (IEC 61966-2-1) of light 0 to 1, by its part of {@link displayParts}. */
export function displayTable(gamma: number): Uint8ClampedArray {
  let table = tables.get(gamma);
  if (!table) {
    if (tables.size > 8) tables.clear();
    table = Uint8ClampedArray.from(
      { length: displayParts + 1 },
      (_, part) => 255 * linearToSrgb(part / displayParts) ** (1 / gamma),
    );
    tables.set(gamma, table);
  }
  return table;
}

/** Colours of the warnings, the gravest first. Where a pixel lies beyond the range it is hatched, where it lies at its end it is filled. */
export const warningColours: readonly (readonly [
  bit: number,
  colour: readonly [number, number, number],
  hatched: boolean,
  words: string,
])[] = [
  [warningBits.notNumber, [214, 150, 30], false, 'not a number'],
  [warningBits.above, [194, 59, 34], true, 'above 1'],
  [warningBits.below, [15, 123, 108], true, 'below 0'],
  [warningBits.top, [194, 59, 34], false, 'at the top code'],
  [warningBits.bottom, [15, 123, 108], false, 'at code 0'],
];

/**
 * A picture as 8-bit sRGB with straight alpha, ready to be laid over a background. A channel, alpha and luminance are opaque
 * grey, of colours as they are stored: premultiplied ones have their share of alpha.
 */
export function showView(view: View, { channel, exposure, gamma, warns }: Looking): Uint8ClampedArray {
  const { width, height, data, alpha } = view;
  const pixels = new Uint8ClampedArray(width * height * 4);
  const shown = displayBy(exposure, gamma);
  const grey = greyOf(channel);
  for (let at = 0; at < data.length; at += 4) {
    if (grey) {
      const value = channel === 'alpha' ? 255 * data[at + 3]! : shown(grey(data, at));
      pixels[at] = pixels[at + 1] = pixels[at + 2] = value;
      pixels[at + 3] = 255;
      continue;
    }
    if (alpha === 'premultiplied') {
      showColour(pixels, at, data[at]!, data[at + 1]!, data[at + 2]!, data[at + 3]!, shown);
      continue;
    }
    pixels[at] = shown(data[at]!);
    pixels[at + 1] = shown(data[at + 1]!);
    pixels[at + 2] = shown(data[at + 2]!);
    pixels[at + 3] = 255 * data[at + 3]!;
  }
  if (warns) paintWarnings(pixels, view);
  return pixels;
}

/** {@link showView} of a view in its bytes, with its size; quicker where halves can be looked up as they lie. */
export function showPacked(
  bytes: Uint8Array,
  looking: Looking,
): { width: number; height: number; pixels: Uint8ClampedArray } {
  const packed = halvesIn(bytes);
  if (packed && looking.channel !== 'luminance') {
    const { width, height } = packed;
    return { width, height, pixels: showHalves(packed, looking) };
  }
  const view = unpackView(bytes);
  return { width: view.width, height: view.height, pixels: showView(view, looking) };
}

/** Display values of all half floats, and their values as alpha, for the last few ways of looking. */
const halfTables = new Map<string, Uint8ClampedArray>();
function displayedHalves(exposure: number, gamma: number): Uint8ClampedArray {
  const key = `${exposure} ${gamma}`;
  let displayed = halfTables.get(key);
  if (!displayed) {
    const shown = displayBy(exposure, gamma);
    displayed = Uint8ClampedArray.from(halfTable(), shown);
    if (halfTables.size > 8) halfTables.clear();
    halfTables.set(key, displayed);
  }
  return displayed;
}

let halfAlphas: Uint8ClampedArray | undefined;

function showHalves(view: PackedView, { channel, exposure, gamma, warns }: Looking): Uint8ClampedArray {
  const { width, height, halves, alpha } = view;
  const pixels = new Uint8ClampedArray(width * height * 4);
  const displayed = displayedHalves(exposure, gamma);
  halfAlphas ??= Uint8ClampedArray.from(halfTable(), (value) => 255 * value);
  const which = { red: 0, green: 1, blue: 2, alpha: 3 }[channel as string];
  if (which !== undefined) {
    const table = channel === 'alpha' ? halfAlphas : displayed;
    for (let at = 0; at < halves.length; at += 4) {
      pixels[at] = pixels[at + 1] = pixels[at + 2] = table[halves[at + which]!]!;
      pixels[at + 3] = 255;
    }
  } else {
    const shares = alpha === 'premultiplied';
    const shown = displayBy(exposure, gamma);
    const values = halfTable();
    for (let at = 0; at < halves.length; at += 4) {
      const opacity = halves[at + 3]!;
      // Colour that has its share of alpha is divided; all else is looked up as it lies.
      if (shares && opacity !== halfOne) {
        showColour(
          pixels,
          at,
          values[halves[at]!]!,
          values[halves[at + 1]!]!,
          values[halves[at + 2]!]!,
          values[opacity]!,
          shown,
        );
        continue;
      }
      pixels[at] = displayed[halves[at]!]!;
      pixels[at + 1] = displayed[halves[at + 1]!]!;
      pixels[at + 2] = displayed[halves[at + 2]!]!;
      pixels[at + 3] = halfAlphas[opacity]!;
    }
  }
  if (warns) paintWarnings(pixels, view);
  return pixels;
}

/** The bits of a half float of 1. */
const halfOne = 0x3c00;

/** Display values, 0 to 255, of light. */
function displayBy(exposure: number, gamma: number): (light: number) => number {
  const table = displayTable(gamma);
  const scale = displayParts * 2 ** exposure;
  return (light) => {
    const part = light * scale;
    return part >= displayParts ? table[displayParts]! : part > 0 ? table[part | 0]! : table[0]!;
  };
}

/** A premultiplied pixel as straight colour. */
function showColour(
  pixels: Uint8ClampedArray,
  at: number,
  red: number,
  green: number,
  blue: number,
  opacity: number,
  shown: (light: number) => number,
): void {
  const share = opacity > 0 ? 1 / opacity : 1;
  pixels[at] = shown(red * share);
  pixels[at + 1] = shown(green * share);
  pixels[at + 2] = shown(blue * share);
  pixels[at + 3] = 255 * opacity;
  if (!(opacity > 0)) showGlow(pixels, at);
}

/** Light that is added where alpha is 0: as opaque as it is bright, so that over black it is what it is. */
function showGlow(pixels: Uint8ClampedArray, at: number): void {
  const most = Math.max(pixels[at]!, pixels[at + 1]!, pixels[at + 2]!);
  if (most === 0) return;
  for (let channel = 0; channel < 3; channel += 1) pixels[at + channel] = (pixels[at + channel]! * 255) / most;
  pixels[at + 3] = most;
}

function greyOf(channel: ShownChannel): ((data: Float32Array, at: number) => number) | undefined {
  switch (channel) {
    case 'colour':
      return undefined;
    case 'red':
      return (data, at) => data[at]!;
    case 'green':
      return (data, at) => data[at + 1]!;
    case 'blue':
      return (data, at) => data[at + 2]!;
    case 'alpha':
      return (data, at) => data[at + 3]!;
    case 'luminance':
      // CIE Y of linear BT.709 (ITU-R BT.709-6, item 3.2).
      return (data, at) => lumaOf(data[at]!, data[at + 1]!, data[at + 2]!);
  }
}

function paintWarnings(pixels: Uint8ClampedArray, { width, warnings }: Pick<View, 'width' | 'warnings'>): void {
  for (let pixel = 0; pixel < warnings.length; pixel += 1) {
    const bits = warnings[pixel]!;
    if (bits === 0) continue;
    const [, colour, hatched] = warningColours.find(([bit]) => (bits & bit) !== 0)!;
    const stripe = (((pixel % width) + Math.floor(pixel / width)) >> 1) & 1;
    if (hatched && stripe === 1) pixels.set([20, 20, 20, 255], pixel * 4);
    else {
      pixels.set(colour, pixel * 4);
      pixels[pixel * 4 + 3] = 255;
    }
  }
}

/** How far two displayed pictures lie apart, times `gain`: opaque, black where they are the same. */
export function showDifference(a: View, b: View, looking: Looking, gain: number): Uint8ClampedArray {
  const [left, right] = [a, b].map((view) => floatsShown(view, looking)) as [Shown, Shown];
  const { width, height } = a;
  const pixels = new Uint8ClampedArray(width * height * 4);
  for (let y = 0, at = 0; y < height; y += 1) {
    const row = Math.min(b.height - 1, Math.floor(((y + 0.5) * b.height) / height)) * b.width;
    for (let x = 0; x < width; x += 1, at += 4) {
      const other = (row + Math.min(b.width - 1, Math.floor(((x + 0.5) * b.width) / width))) * 4;
      for (let channel = 0; channel < 3; channel += 1)
        pixels[at + channel] = 255 * gain * Math.abs(left(at, channel) - right(other, channel));
      pixels[at + 3] = 255;
    }
  }
  return pixels;
}

/** A displayed value, 0 to 1 and beyond, of a pixel's channel over black. */
type Shown = (at: number, channel: number) => number;

function floatsShown({ data, alpha }: View, { channel, exposure, gamma }: Looking): Shown {
  const grey = greyOf(channel);
  const scale = 2 ** exposure;
  const shown = (light: number): number => {
    const value = linearToSrgb(light * scale);
    return gamma === 1 ? value : Math.sign(value) * Math.abs(value) ** (1 / gamma);
  };
  if (channel === 'alpha') return (at) => data[at + 3]!;
  if (grey) return (at) => shown(grey(data, at));
  return (at, colour) => {
    const opacity = data[at + 3]!;
    if (alpha === 'none') return shown(data[at + colour]!);
    if (alpha === 'straight') return shown(data[at + colour]!) * opacity;
    return opacity > 0 ? shown(data[at + colour]! / opacity) * opacity : shown(data[at + colour]!);
  };
}
