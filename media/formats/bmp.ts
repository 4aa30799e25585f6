import { lacking, refuseAbsurdSize, type StillFormat } from './format.ts';

/** BMP by its headers (BITMAPFILEHEADER and BITMAPINFOHEADER); pictures are not read in this version. */
export const bmp: StillFormat = {
  id: 'bmp',
  recognises: (head) => head.length >= 26 && head[0] === 0x42 && head[1] === 0x4d && head.readUInt32LE(14) >= 12,
  header(file) {
    const head = file.need(0, 34);
    const dataAt = head.readUInt32LE(10);
    const old = head.readUInt32LE(14) === 12;
    const width = old ? head.readUInt16LE(18) : Math.abs(head.readInt32LE(18));
    const height = old ? head.readUInt16LE(20) : Math.abs(head.readInt32LE(22));
    refuseAbsurdSize(width, height);
    const bits = old ? head.readUInt16LE(24) : head.readUInt16LE(28);
    const packed = !old && [1, 2].includes(head.readUInt32LE(30));
    // A fourth byte is alpha only where the later headers give it a mask.
    const mask = !old && head.readUInt32LE(14) >= 56 && bits === 32 ? file.need(66, 4).readUInt32LE(0) : 0;
    const needs = packed ? head.readUInt32LE(2) : dataAt + Math.ceil((width * bits) / 32) * 4 * height;
    return {
      facts: {
        width,
        height,
        format: 'bmp',
        sample: 'u8',
        channels: mask ? ['R', 'G', 'B', 'A'] : ['R', 'G', 'B'],
        hasAlpha: mask !== 0,
        compression: packed ? 'RLE' : 'none',
        more: bits <= 8 ? [['Palette', `${2 ** bits} colours at most`]] : [],
      },
      dataAt: Math.min(dataAt, file.size),
      cutShort: lacking(file.size, needs),
    };
  },
};
