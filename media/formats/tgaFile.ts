import type { Image } from '@shale/core';
import { pixelAddon } from '../pixels/addon.ts';
import { NotRead } from '../notRead.ts';

/** What the 18 bytes that every TGA begins with say (Truevision TGA 2.0, C.2). */
export interface TgaHead {
  kind: 'palette' | 'colour' | 'grey';
  packed: boolean;
  width: number;
  height: number;
  /** Bits of a pixel as it lies in the file. */
  bits: number;
  /** Bits of what is shown: of a palette those of its entries. */
  shownBits: number;
  hasAlpha: boolean;
  palette: { at: number; first: number; count: number };
  dataAt: number;
  /** Whether the first row is the uppermost, and the first pixel of a row the rightmost. */
  fromTop: boolean;
  fromRight: boolean;
}

const kinds = { 1: 'palette', 2: 'colour', 3: 'grey' } as const;
const depths = { palette: [8, 16], colour: [15, 16, 24, 32], grey: [8] } as const;

/** @throws Error for kinds and depths that the format does not have */
export function tgaHead(head: Buffer): TgaHead {
  const type = head[2]!;
  const kind = kinds[(type & 7) as 1];
  const bits = head[16]!;
  const entryBits = head[7]!;
  if (![1, 2, 3, 9, 10, 11].includes(type)) throw new NotRead(`its TGA type ${type} cannot be read by this version`);
  if (!(depths[kind] as readonly number[]).includes(bits))
    throw new NotRead(`its TGA of kind ${kind} with ${bits} bits cannot be read by this version`);
  if (kind === 'palette' && !(depths.colour as readonly number[]).includes(entryBits))
    throw new NotRead(`its palette of ${entryBits} bits cannot be read by this version`);
  const hasPalette = head[1] === 1;
  if (kind === 'palette' && !hasPalette) throw new Error('it names a palette and has none');
  const count = hasPalette ? head.readUInt16LE(5) : 0;
  const at = 18 + head[0]!;
  const shownBits = kind === 'palette' ? entryBits : bits;
  const alphaBits = head[17]! & 0x0f;
  return {
    kind,
    packed: type >= 9,
    width: head.readUInt16LE(12),
    height: head.readUInt16LE(14),
    bits,
    shownBits,
    hasAlpha: kind === 'palette' ? entryBits === 32 : alphaBits > 0 && (bits === 32 || bits === 16),
    palette: { at, first: head.readUInt16LE(3), count },
    dataAt: at + count * Math.ceil(entryBits / 8),
    fromTop: (head[17]! & 0x20) !== 0,
    fromRight: (head[17]! & 0x10) !== 0,
  };
}

/** The pixels' own bytes, run lengths undone (C.5): each packet says how many pixels it holds, and they make up the picture. */
function unpacked(bytes: Buffer, { dataAt, width, height, bits, packed }: TgaHead): Buffer {
  const size = Math.ceil(bits / 8);
  const total = width * height * size;
  if (!packed) {
    if (bytes.length < dataAt + total) throw new Error('it ends within its picture');
    return bytes.subarray(dataAt, dataAt + total);
  }
  const made = Buffer.alloc(total);
  let [from, to] = [dataAt, 0];
  while (to < total) {
    if (from >= bytes.length) throw new Error('it ends within its picture');
    const packet = bytes[from]!;
    const many = ((packet & 0x7f) + 1) * size;
    const isRun = packet >= 0x80;
    const held = isRun ? size : many;
    if (from + 1 + held > bytes.length) throw new Error('it ends within its picture');
    if (to + many > total) throw new Error('its run lengths are damaged: they hold more than its picture');
    // Byte by byte: packets are short, and each call would cost more than what it copies. A run repeats what it wrote.
    for (let at = 0; at < held; at += 1) made[to + at] = bytes[from + 1 + at]!;
    for (let at = held; at < many; at += 1) made[to + at] = made[to + at - size]!;
    from += 1 + held;
    to += many;
  }
  return made;
}

/** Five bits as eight, as every reader spreads them. */
const five = (value: number): number => (value << 3) | (value >> 2);

/** Puts one pixel of 15 to 32 bits, blue first, as red, green, blue and alpha. */
function putPixel(from: Buffer, at: number, bits: number, into: Uint8Array, to: number, channels: number): void {
  if (bits <= 16) {
    const word = from.readUInt16LE(at);
    into[to] = five((word >> 10) & 31);
    into[to + 1] = five((word >> 5) & 31);
    into[to + 2] = five(word & 31);
    if (channels === 4) into[to + 3] = word & 0x8000 ? 255 : 0;
    return;
  }
  into[to] = from[at + 2]!;
  into[to + 1] = from[at + 1]!;
  into[to + 2] = from[at]!;
  if (channels === 4) into[to + 3] = from[at + 3]!;
}

/** The colours of a palette, as many channels each as its picture has. */
function paletteOf(bytes: Buffer, { palette, shownBits, dataAt }: TgaHead, channels: number): Uint8Array {
  if (bytes.length < dataAt) throw new Error('it ends within its palette');
  const colours = new Uint8Array(palette.count * channels);
  const size = Math.ceil(shownBits / 8);
  for (let entry = 0; entry < palette.count; entry += 1)
    putPixel(bytes, palette.at + entry * size, shownBits, colours, entry * channels, channels);
  return colours;
}

/**
 * The picture of a TGA: grey, colour of 15 to 32 bits, palettes, with run lengths or without, from either end.
 * @throws Error where it is not whole or its run lengths do not make up its picture
 */
export function readTga(bytes: Buffer): Image {
  const head = tgaHead(bytes);
  const { kind, width, height, bits, fromTop, fromRight, hasAlpha } = head;
  const stored = unpacked(bytes, head);
  const channels = kind === 'grey' ? 1 : hasAlpha ? 4 : 3;
  const data = new Uint8Array(width * height * channels);
  const colours = kind === 'palette' ? paletteOf(bytes, head, channels) : undefined;
  const size = Math.ceil(bits / 8);
  // The commonest: whole bytes, from the left.
  if (kind === 'colour' && size === channels && size > 2 && !fromRight) {
    const row = width * size;
    for (let y = 0; y < height; y += 1) {
      const to = (fromTop ? y : height - 1 - y) * row;
      pixelAddon.swapRedBlue(stored.subarray(y * row, (y + 1) * row), size, data.subarray(to, to + row));
    }
    return { width, height, channels, sample: 'u8', data };
  }
  for (let y = 0, at = 0; y < height; y += 1) {
    const row = (fromTop ? y : height - 1 - y) * width;
    for (let x = 0; x < width; x += 1, at += size) {
      const to = (row + (fromRight ? width - 1 - x : x)) * channels;
      if (colours) {
        const entry = (size === 1 ? stored[at]! : stored.readUInt16LE(at)) - head.palette.first;
        if (entry < 0 || entry >= head.palette.count)
          throw new Error('it names a colour that its palette does not have');
        for (let channel = 0; channel < channels; channel += 1)
          data[to + channel] = colours[entry * channels + channel]!;
      } else if (kind === 'grey') data[to] = stored[at]!;
      else putPixel(stored, at, bits, data, to, channels);
    }
  }
  return { width, height, channels, sample: 'u8', data };
}
