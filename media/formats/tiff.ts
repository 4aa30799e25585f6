import { readFile, writeFile } from 'node:fs/promises';
import sharp from 'sharp';
import { encodeWithSharp, readWithSharp } from './sharp.ts';
import { refuseAbsurdSize, type StillFormat } from './format.ts';

/** TIFF of 8 and 16 bits through libvips. */
export const tiff: StillFormat = {
  id: 'tiff',
  recognises: (head) => /^(II[*+]\0|MM\0[*+])$/s.test(head.toString('latin1', 0, 4)),
  async probe(path) {
    const { width = 0, height = 0, channels = 3, depth, hasAlpha = false, compression } = await sharp(path).metadata();
    refuseAbsurdSize(width, height);
    if (depth !== 'uchar' && depth !== 'ushort')
      throw new Error(`its samples are ${depth}; this version reads 8 and 16 bits`);
    const colours = channels - (hasAlpha ? 1 : 0) === 1 ? ['Y'] : ['R', 'G', 'B'];
    return {
      width,
      height,
      format: 'tiff',
      sample: depth === 'ushort' ? 'u16' : 'u8',
      channels: hasAlpha ? [...colours, 'A'] : colours,
      hasAlpha,
      compression,
      more: [],
    };
  },
  async read(path) {
    const bytes = await readFile(path);
    const { depth } = await sharp(bytes).metadata();
    return readWithSharp(bytes, depth === 'ushort' ? 'u16' : 'u8');
  },
  async write(path, image, { tiffCompression }) {
    const coded = await encodeWithSharp(image, (pipeline) =>
      pipeline.tiff({
        compression: tiffCompression,
        predictor: tiffCompression === 'none' ? 'none' : 'horizontal',
      }),
    );
    await writeFile(path, coded, { flag: 'wx' });
  },
};
