import { readFile, writeFile } from 'node:fs/promises';
import { encodeWithSharp, readWithSharp } from './sharp.ts';
import type { StillFormat } from './format.ts';
import { tiffHeader } from './tiffHeader.ts';

/** TIFF of 8 and 16 bits through libvips. */
export const tiff: StillFormat = {
  id: 'tiff',
  recognises: (head) => /^(II[*+]\0|MM\0[*+])$/s.test(head.toString('latin1', 0, 4)),
  header: tiffHeader,
  async read(path, { sample }) {
    if (sample !== 'u8' && sample !== 'u16')
      throw new Error(`its samples are ${sample}; this version reads 8 and 16 bits`);
    return readWithSharp(await readFile(path), sample);
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
