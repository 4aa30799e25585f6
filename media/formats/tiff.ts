import { readFile, writeFile } from 'node:fs/promises';
import { encodeWithSharp, readWithSharp } from './sharp.ts';
import type { StillFormat } from './format.ts';
import { HeaderFile } from './headerFile.ts';
import { floatTiff, readFloats } from './tiffFloat.ts';
import { extraSampleAt, tiffHeader } from './tiffHeader.ts';

/**
 * libvips divides colour by alpha where the file says that alpha is associated, and rounds. What is stored is wanted, to
 * the letter: the copy in memory is made to say unassociated (2; TIFF 6.0, section 18), and nothing is divided.
 */
function keepPremultiplied(path: string, bytes: Buffer): void {
  const file = new HeaderFile(path);
  try {
    const at = extraSampleAt(file);
    if (at?.little) bytes.writeUInt16LE(2, at.place);
    else if (at) bytes.writeUInt16BE(2, at.place);
  } finally {
    file.close();
  }
}

/** TIFF: integers of 8 and 16 bits through libvips, floats by {@link readFloats} and {@link floatTiff}. */
export const tiff: StillFormat = {
  id: 'tiff',
  recognises: (head) => /^(II[*+]\0|MM\0[*+])$/s.test(head.toString('latin1', 0, 4)),
  header: tiffHeader,
  async read(path, { sample, alphaSays }) {
    const bytes = await readFile(path);
    if (sample === 'f16' || sample === 'f32') return readFloats(bytes, sample);
    if (sample !== 'u8' && sample !== 'u16')
      throw new Error(`its samples are ${sample}; this version reads 8 and 16 bits, half float and float`);
    if (alphaSays === 'premultiplied') keepPremultiplied(path, bytes);
    return readWithSharp(bytes, sample);
  },
  async write(path, image, settings) {
    const { tiffCompression } = settings;
    if (image.sample === 'f32') {
      await writeFile(path, floatTiff(image, settings), { flag: 'wx' });
      return;
    }
    const coded = await encodeWithSharp(image, (pipeline) =>
      pipeline.tiff({
        compression: tiffCompression,
        predictor: tiffCompression === 'none' ? 'none' : 'horizontal',
      }),
    );
    await writeFile(path, coded, { flag: 'wx' });
  },
};
