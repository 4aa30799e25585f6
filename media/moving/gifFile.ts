/**
 * LZW as GIF has it (GIF89a, appendix F): codes of up to 12 bits, low bit first, in blocks of up to 255 bytes behind the least size of
 * a code.
 * @param bits of an index, 2 to 8
 */
export function gifData(indices: Uint8Array, bits: number): Buffer {
  const clear = 1 << bits;
  const end = clear + 1;
  // A code takes at most 12 bits, and every 255 bytes one more.
  const out = Buffer.allocUnsafe(Math.ceil(indices.length * 1.6) + 64);
  let at = 0;
  let blockAt = 1;
  let held = 0;
  let heldBits = 0;
  let width = bits + 1;
  out[at] = bits;
  at = blockAt + 1;
  const putByte = (byte: number) => {
    out[at] = byte;
    at += 1;
    if (at - blockAt === 256) {
      out[blockAt] = 255;
      blockAt = at;
      at += 1;
    }
  };
  const put = (code: number) => {
    held |= code << heldBits;
    heldBits += width;
    while (heldBits >= 8) {
      putByte(held & 255);
      held >>>= 8;
      heldBits -= 8;
    }
  };
  // A string is the code of its beginning and one index more; what was noted before the table was begun anew does not count.
  let round = 1;
  let next = end + 1;
  let prefix = -1;
  put(clear);
  for (const index of indices) {
    if (prefix < 0) {
      prefix = index;
      continue;
    }
    const place = (prefix << 8) | index;
    const known = table[place]!;
    if (known >>> 12 === stamp + round) {
      prefix = known & 4095;
      continue;
    }
    put(prefix);
    if (next < 4096) {
      table[place] = ((stamp + round) << 12) | next;
      if (next === 1 << width) width += 1;
      next += 1;
    } else {
      put(clear);
      round += 1;
      next = end + 1;
      width = bits + 1;
    }
    prefix = index;
  }
  if (prefix >= 0) put(prefix);
  // The reader notes a string more than was noted here.
  if (next === 1 << width && width < 12) width += 1;
  put(end);
  if (heldBits > 0) putByte(held & 255);
  stamp += round;
  if (stamp > 500_000) {
    table.fill(0);
    stamp = 0;
  }
  const length = at - blockAt - 1;
  if (length > 0) out[blockAt] = length;
  else at = blockAt;
  out[at] = 0;
  return out.subarray(0, at + 1);
}

/** Codes by beginning and index, each with the round in which it was noted: beginning anew costs nothing. */
const table = new Uint32Array(4096 << 8);
let stamp = 0;

/** A palette: red, green and blue of each colour, at most 256. */
export type Palette = Uint8Array;

/** Bits of an index into a palette, 1 to 8. */
export const paletteBits = (colours: number): number => Math.max(1, Math.ceil(Math.log2(Math.max(2, colours))));

function paletteBytes(palette: Palette): Buffer {
  const bytes = Buffer.alloc(3 << paletteBits(palette.length / 3));
  bytes.set(palette);
  return bytes;
}

/** A picture as GIF stores it: a box of the screen in indices. */
export interface GifPicture {
  left: number;
  top: number;
  width: number;
  height: number;
  indices: Uint8Array;
  /** The index that leaves what is there; absent where none does. */
  clear?: number;
  /** Of its own; the shared one where it is absent. */
  palette?: Palette;
  /** Hundredths of a second. */
  delay: number;
  /** Whether its box becomes clear before the next is drawn. */
  clears: boolean;
}

/** What comes before the pictures: size, the shared palette, how often it plays (GIF89a, 17 to 19; the application block of loops). */
export function gifHead(width: number, height: number, palette: Palette | undefined, plays: number | null): Buffer {
  const head = Buffer.alloc(13);
  head.write('GIF89a', 0, 'latin1');
  head.writeUInt16LE(width, 6);
  head.writeUInt16LE(height, 8);
  head[10] = 0x70 | (palette ? 0x80 | (paletteBits(palette.length / 3) - 1) : 0);
  const parts = [head, ...(palette ? [paletteBytes(palette)] : [])];
  // It is told how often it plays again: nothing at all where it plays once, 0 for ever.
  if (plays !== 1) {
    const loop = Buffer.from('\x21\xff\x0bNETSCAPE2.0\x03\x01\0\0\0', 'latin1');
    loop.writeUInt16LE(plays === null ? 0 : plays - 1, 16);
    parts.push(loop);
  }
  return Buffer.concat(parts);
}

/** A picture's blocks (GIF89a, 20, 22, 23). */
export function gifPicture(
  { left, top, width, height, indices, clear, palette, delay, clears }: GifPicture,
  bits: number,
): Buffer {
  const control = Buffer.from([
    0x21,
    0xf9,
    4,
    (clears ? 2 << 2 : 1 << 2) | (clear === undefined ? 0 : 1),
    0,
    0,
    clear ?? 0,
    0,
  ]);
  control.writeUInt16LE(delay, 4);
  const box = Buffer.alloc(10);
  box[0] = 0x2c;
  box.writeUInt16LE(left, 1);
  box.writeUInt16LE(top, 3);
  box.writeUInt16LE(width, 5);
  box.writeUInt16LE(height, 7);
  box[9] = palette ? 0x80 | (paletteBits(palette.length / 3) - 1) : 0;
  return Buffer.concat([
    control,
    box,
    ...(palette ? [paletteBytes(palette)] : []),
    gifData(indices, Math.max(2, bits)),
  ]);
}

export const gifEnd = Buffer.from([0x3b]);
