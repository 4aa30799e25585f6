import { readFile } from 'node:fs/promises';
import type { CodecId } from '@shale/core';
import { lottieFrames } from './lottie.ts';

/**
 * Bytes that each stored picture of an animation takes, in order, without what stands before the first: of a GIF (89a), an animated PNG
 * (PNG, third edition) or an animated WebP (RFC 9649). Null for other formats, and where the file is none of them.
 */
export async function frameBytesOf(path: string, format: CodecId): Promise<number[] | null> {
  if (format === 'lottie') return lottieFrames(path);
  const reader = { gif: gifFrames, apng: pngFrames, webpanim: webpFrames }[format as string];
  if (!reader) return null;
  try {
    return reader(await readFile(path));
  } catch (error) {
    // A reading beyond the end is of a file that is not whole.
    if (error instanceof RangeError) return null;
    throw error;
  }
}

/** Chunks of PNG: those of one picture begin with its control. */
function pngFrames(bytes: Buffer): number[] {
  const frames: number[] = [];
  for (let at = 8; at < bytes.length;) {
    const size = 12 + bytes.readUInt32BE(at);
    const kind = bytes.toString('latin1', at + 4, at + 8);
    if (kind === 'fcTL') frames.push(0);
    if (['fcTL', 'fdAT', 'IDAT'].includes(kind) && frames.length > 0) frames[frames.length - 1]! += size;
    at += size;
  }
  return frames;
}

/** Chunks of RIFF, of even length; a still has its picture in one of its own. */
function webpFrames(bytes: Buffer): number[] {
  const frames: number[] = [];
  for (let at = 12; at < bytes.length;) {
    const kind = bytes.toString('latin1', at, at + 4);
    const length = bytes.readUInt32LE(at + 4);
    const size = 8 + length + (length % 2);
    if (kind === 'ANMF' || kind === 'VP8 ' || kind === 'VP8L') frames.push(size);
    at += size;
  }
  return frames;
}

/** Blocks of GIF: those of one picture begin with its control, or with the picture where it has none. */
function gifFrames(bytes: Buffer): number[] {
  const frames: number[] = [];
  const tableSize = (packed: number) => (packed & 0x80 ? 3 << ((packed & 7) + 1) : 0);
  const afterBlocks = (from: number): number => {
    let at = from;
    while (bytes.readUInt8(at) > 0) at += bytes.readUInt8(at) + 1;
    return at + 1;
  };
  let at = 13 + tableSize(bytes.readUInt8(10));
  let begins: number | undefined;
  while (bytes.readUInt8(at) !== 0x3b) {
    const from = at;
    if (bytes[at] === 0x21) {
      at = afterBlocks(at + 2);
      if (bytes[from + 1] === 0xf9) begins = from;
    } else {
      at = afterBlocks(at + 10 + tableSize(bytes.readUInt8(at + 9)) + 1);
      frames.push(at - (begins ?? from));
      begins = undefined;
    }
  }
  return frames;
}
