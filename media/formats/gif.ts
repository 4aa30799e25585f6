import { readFile } from 'node:fs/promises';
import { refuseAbsurdSize, type StillFormat } from './format.ts';
import { readWithSharp } from './sharp.ts';

const trailer = 0x3b;

/** GIF (89a): the first picture through libvips; the header and the trailer by themselves. */
export const gif: StillFormat = {
  id: 'gif',
  recognises: (head) => /^GIF8[79]a$/.test(head.toString('latin1', 0, 6)),
  header(file) {
    const head = file.need(0, 13);
    const width = head.readUInt16LE(6);
    const height = head.readUInt16LE(8);
    refuseAbsurdSize(width, height);
    const colours = 2 << (head[10]! & 7);
    const dataAt = 13 + (head[10]! & 0x80 ? 3 * colours : 0);
    // A graphic control extension with its first flag names a transparent colour.
    const control = file.head.indexOf(Buffer.from([0x21, 0xf9, 4]), dataAt);
    const hasAlpha = control >= 0 && (file.head[control + 3]! & 1) === 1;
    return {
      facts: {
        width,
        height,
        format: 'gif',
        sample: 'u8',
        channels: hasAlpha ? ['R', 'G', 'B', 'A'] : ['R', 'G', 'B'],
        hasAlpha,
        compression: 'lzw',
        more: [['Palette', `${colours} colours at most`]],
      },
      dataAt: Math.min(dataAt, file.size),
      cutShort: file.read(file.size - 1, 1)[0] === trailer ? undefined : 'its trailer is not there',
    };
  },
  read: async (path) => readWithSharp(await readFile(path), 'u8'),
};
