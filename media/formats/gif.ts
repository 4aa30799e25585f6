import { readFile } from 'node:fs/promises';
import { rateOfDelays } from '@shale/core';
import { refuseAbsurdSize, type StillFormat } from './format.ts';
import type { HeaderFile } from './headerFile.ts';
import { readWithSharp } from './sharp.ts';

const trailer = 0x3b;

/** Bytes that are looked at together while walking through the blocks. */
const window = 1 << 18;

/** Goes through a file's blocks (GIF89a, 12 to 27): how many pictures, whether one has clear pixels, and how long each stands. */
function walk(file: HeaderFile, from: number): { pictures: number; hasAlpha: boolean; delays: number[] } {
  let held = file.read(from, window);
  let heldAt = from;
  const byte = (at: number): number => {
    if (at < heldAt || at >= heldAt + held.length) {
      held = file.read(at, window);
      heldAt = at;
    }
    return held[at - heldAt] ?? trailer;
  };
  const told = { pictures: 0, hasAlpha: false, delays: [] as number[] };
  const pastBlocks = (at: number): number => {
    let next = at;
    while (next < file.size && byte(next) !== 0) next += byte(next) + 1;
    return next + 1;
  };
  for (let at = from; at < file.size && told.pictures < 100_000;) {
    const kind = byte(at);
    if (kind === 0x21) {
      // A graphic control extension: flags, then the delay.
      if (byte(at + 1) === 0xf9) {
        told.hasAlpha ||= (byte(at + 3) & 1) === 1;
        told.delays.push(byte(at + 4) + byte(at + 5) * 256);
      }
      at = pastBlocks(at + 2);
    } else if (kind === 0x2c) {
      const flags = byte(at + 9);
      told.pictures += 1;
      at = pastBlocks(at + 10 + (flags & 0x80 ? 3 * (2 << (flags & 7)) : 0) + 1);
    } else break;
  }
  return told;
}

/** GIF (89a) through libvips, its pictures laid over each other as they are shown. */
export const gif = {
  recognises: (head) => /^GIF8[79]a$/.test(head.toString('latin1', 0, 6)),
  header(file) {
    const head = file.need(0, 13);
    const width = head.readUInt16LE(6);
    const height = head.readUInt16LE(8);
    refuseAbsurdSize(width, height);
    const colours = 2 << (head[10]! & 7);
    const dataAt = 13 + (head[10]! & 0x80 ? 3 * colours : 0);
    const { pictures, hasAlpha, delays } = walk(file, dataAt);
    const told = new Set(delays);
    return {
      facts: {
        width,
        height,
        format: 'gif',
        sample: 'u8',
        channels: hasAlpha ? ['R', 'G', 'B', 'A'] : ['R', 'G', 'B'],
        hasAlpha,
        compression: 'lzw',
        ...(pictures > 1 ? { pictures } : {}),
        rate: pictures > 1 ? rateOfDelays(delays, 100) : undefined,
        more: [
          ['Palette', `${colours} colours at most`],
          ...(told.size > 1
            ? [['Delays', `${Math.min(...delays)} to ${Math.max(...delays)} hundredths`] as [string, string]]
            : []),
        ],
      },
      dataAt: Math.min(dataAt, file.size),
      cutShort: file.read(file.size - 1, 1)[0] === trailer ? undefined : 'its trailer is missing',
    };
  },
  read: async (path, _facts, picture) => readWithSharp(await readFile(path), 'u8', picture),
} satisfies StillFormat;
