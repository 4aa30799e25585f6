/** How the error of a pixel is handed on: to the right and below, in parts of a whole. */
interface Diffusion {
  parts: number;
  /** Columns ahead, rows below, how many parts. */
  to: readonly (readonly [across: number, down: number, share: number])[];
}

/**
 * Error diffusions by the names of those who published them: R. Floyd and L. Steinberg (1976), F. Sierra (1989 and 1990), D. Burkes
 * (1988), B. Atkinson (of his, a quarter of the error is dropped).
 */
const diffusions = {
  'floyd-steinberg': {
    parts: 16,
    to: [
      [1, 0, 7],
      [-1, 1, 3],
      [0, 1, 5],
      [1, 1, 1],
    ],
  },
  sierra: {
    parts: 32,
    to: [
      [1, 0, 5],
      [2, 0, 3],
      [-2, 1, 2],
      [-1, 1, 4],
      [0, 1, 5],
      [1, 1, 4],
      [2, 1, 2],
      [-1, 2, 2],
      [0, 2, 3],
      [1, 2, 2],
    ],
  },
  'sierra-2': {
    parts: 16,
    to: [
      [1, 0, 4],
      [2, 0, 3],
      [-2, 1, 1],
      [-1, 1, 2],
      [0, 1, 3],
      [1, 1, 2],
      [2, 1, 1],
    ],
  },
  'sierra-lite': {
    parts: 4,
    to: [
      [1, 0, 2],
      [-1, 1, 1],
      [0, 1, 1],
    ],
  },
  burkes: {
    parts: 32,
    to: [
      [1, 0, 8],
      [2, 0, 4],
      [-2, 1, 2],
      [-1, 1, 4],
      [0, 1, 8],
      [1, 1, 4],
      [2, 1, 2],
    ],
  },
  atkinson: {
    parts: 8,
    to: [
      [1, 0, 1],
      [2, 0, 1],
      [-1, 1, 1],
      [0, 1, 1],
      [1, 1, 1],
      [0, 2, 1],
    ],
  },
} as const satisfies Record<string, Diffusion>;

/** Ways of showing colours that a palette has not. */
export const ditherNames = ['none', 'ordered', ...(Object.keys(diffusions) as (keyof typeof diffusions)[])] as const;
export type DitherName = (typeof ditherNames)[number];

/** Thresholds of an 8 by 8 pattern (B. E. Bayer, 1973), row by row, 0 to 63. */
export const bayer: Uint8Array = Uint8Array.from({ length: 64 }, (_, at) => {
  const [x, y] = [at % 8, Math.floor(at / 8)];
  let value = 0;
  for (let bit = 0; bit < 3; bit += 1) {
    const [a, b] = [(x >> bit) & 1, (y >> bit) & 1];
    value |= (((a ^ b) << 1) | b) << (2 * (2 - bit));
  }
  return value;
});

/**
 * Codes by which the pattern of an ordered dither moves each channel at a colour of the palette, from one end to the other, at full
 * strength: as far as the next colour is from it. What lies between two is shown by both and by no others, and the colour itself stays.
 */
function patternCodes(palette: Uint8Array): Float64Array {
  const count = palette.length / 3;
  return Float64Array.from({ length: count }, (_, at) => {
    let least = Infinity;
    for (let other = 0; other < count; other += 1) {
      if (other === at) continue;
      let apart = 0;
      for (let channel = 0; channel < 3; channel += 1)
        apart += (palette[at * 3 + channel]! - palette[other * 3 + channel]!) ** 2;
      if (apart < least) least = apart;
    }
    return count < 2 ? 0 : Math.sqrt(least / 3);
  });
}

/** Finds the nearest colour of a palette, exactly, by the least sum of squares over red, green and blue. */
class Nearest {
  private readonly reds: Int32Array;
  private readonly greens: Int32Array;
  private readonly blues: Int32Array;
  /** Colours that can be nearest within a cube of 8 codes a side, once it is asked for. */
  private readonly cells: (Uint8Array | undefined)[] = new Array<Uint8Array | undefined>(1 << 15);

  /** @param palette red, green and blue of up to 256 colours, 0 to 255 */
  constructor(palette: Uint8Array) {
    const channel = (from: number) =>
      Int32Array.from({ length: palette.length / 3 }, (_, at) => palette[at * 3 + from]!);
    [this.reds, this.greens, this.blues] = [channel(0), channel(1), channel(2)];
  }

  /** @returns the index of the nearest colour, the first of several */
  of(red: number, green: number, blue: number): number {
    const cell = ((red >> 3) << 10) | ((green >> 3) << 5) | (blue >> 3);
    const some = (this.cells[cell] ??= this.within(red & 248, green & 248, blue & 248));
    if (some.length === 1) return some[0]!;
    let least = 1 << 20;
    let nearest = 0;
    for (let at = 0; at < some.length; at += 1) {
      const index = some[at]!;
      const r = this.reds[index]! - red;
      const g = this.greens[index]! - green;
      const b = this.blues[index]! - blue;
      const apart = r * r + g * g + b * b;
      if (apart < least) {
        least = apart;
        nearest = index;
      }
    }
    return nearest;
  }

  /** Colours whose nearest point of a cube is no farther than the farthest point of it is from some colour. */
  private within(red: number, green: number, blue: number): Uint8Array {
    const count = this.reds.length;
    const nearest = new Float64Array(count);
    let bound = Infinity;
    for (let at = 0; at < count; at += 1) {
      let [near, far] = [0, 0];
      for (const value of [this.reds[at]! - red, this.greens[at]! - green, this.blues[at]! - blue]) {
        const outside = value < 0 ? value : value > 7 ? value - 7 : 0;
        near += outside * outside;
        far += Math.max(value * value, (value - 7) * (value - 7));
      }
      nearest[at] = near;
      bound = Math.min(bound, far);
    }
    const some: number[] = [];
    for (let at = 0; at < count; at += 1) if (nearest[at]! <= bound) some.push(at);
    return Uint8Array.from(some);
  }
}

/** How pictures are brought to a palette. */
export interface Indexing {
  /** Red, green and blue of up to 256 colours, 0 to 255. */
  palette: Uint8Array;
  /** The index of clear pixels; absent where none is clear. */
  clear: number | undefined;
  dither: DitherName;
  /** Of the dither, 0 to 1. */
  amount: number;
}

/**
 * Brings pictures to a palette. Clear pixels get an index of their own, and no error goes into or out of them.
 * @returns a function of RGBA pixels of 8 bits, alpha 0 or 255, and their width, to an index a pixel
 */
export function makeIndexer({
  palette,
  clear,
  dither,
  amount,
}: Indexing): (rgba: Uint8Array, width: number) => Uint8Array {
  const nearest = new Nearest(palette);
  const clamped = (value: number): number => (value < 0 ? 0 : value > 255 ? 255 : Math.round(value));
  if (dither !== 'none' && dither !== 'ordered' && amount > 0) {
    const { parts, to } = diffusions[dither];
    const shares = to.map(([across, down, share]) => ({ across, down, share: (share * amount) / parts }));
    return (rgba, width) => diffused(rgba, width, shares, nearest, palette, clear);
  }
  const codes = dither === 'ordered' && amount > 0 ? patternCodes(palette) : undefined;
  return (rgba, width) => {
    const indices = new Uint8Array(rgba.length / 4);
    for (let at = 0, from = 0; at < indices.length; at += 1, from += 4) {
      if (clear !== undefined && rgba[from + 3] === 0) {
        indices[at] = clear;
        continue;
      }
      const [red, green, blue] = [rgba[from]!, rgba[from + 1]!, rgba[from + 2]!];
      const index = nearest.of(red, green, blue);
      indices[at] = index;
      if (!codes) continue;
      const place = ((Math.floor(at / width) & 7) << 3) | ((at % width) & 7);
      const moved = ((bayer[place]! + 0.5) / 64 - 0.5) * amount * codes[index]!;
      indices[at] = nearest.of(clamped(red + moved), clamped(green + moved), clamped(blue + moved));
    }
    return indices;
  };
}

function diffused(
  rgba: Uint8Array,
  width: number,
  shares: readonly { across: number; down: number; share: number }[],
  nearest: Nearest,
  palette: Uint8Array,
  clear: number | undefined,
): Uint8Array {
  const indices = new Uint8Array(rgba.length / 4);
  const height = indices.length / width;
  // Errors of a row and the two below it, one after another, with two columns on either side that take what falls off.
  const wide = (width + 4) * 3;
  const errors = new Float32Array(wide * 3);
  const ahead = Int32Array.from(shares, ({ across, down }) => down * wide + across * 3);
  const parts = Float32Array.from(shares, ({ share }) => share);
  const clamped = (value: number): number => (value < 0 ? 0 : value > 255 ? 255 : (value + 0.5) | 0);
  for (let y = 0, at = 0, from = 0; y < height; y += 1) {
    for (let held = 6; held < wide - 6; held += 3, at += 1, from += 4) {
      if (clear !== undefined && rgba[from + 3] === 0) {
        indices[at] = clear;
        continue;
      }
      const red = clamped(rgba[from]! + errors[held]!);
      const green = clamped(rgba[from + 1]! + errors[held + 1]!);
      const blue = clamped(rgba[from + 2]! + errors[held + 2]!);
      const index = nearest.of(red, green, blue);
      indices[at] = index;
      const offRed = red - palette[index * 3]!;
      const offGreen = green - palette[index * 3 + 1]!;
      const offBlue = blue - palette[index * 3 + 2]!;
      for (let to = 0; to < ahead.length; to += 1) {
        const place = held + ahead[to]!;
        const part = parts[to]!;
        errors[place] = errors[place]! + offRed * part;
        errors[place + 1] = errors[place + 1]! + offGreen * part;
        errors[place + 2] = errors[place + 2]! + offBlue * part;
      }
    }
    errors.copyWithin(0, wide);
    errors.fill(0, wide * 2);
  }
  return indices;
}
