import { readFile } from 'node:fs/promises';
import { writePieces, type StillFormat } from './format.ts';
import { HeaderFile } from './headerFile.ts';
import { readWithSharp } from './sharp.ts';
import { readFloats, tiffPieces } from './tiffFile.ts';
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

/** TIFF: integers of 8 and 16 bits read through libvips, floats by {@link readFloats}; all written by {@link tiffPieces}. */
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
    await writePieces(path, await tiffPieces(image, settings));
  },
};
