import { readFile } from 'node:fs/promises';
import { constants } from 'node:buffer';
import { promisify } from 'node:util';
import { inflate } from 'node:zlib';
import type { Facts } from '@shale/core';
import { writePieces, type StillFormat } from './format.ts';
import { HeaderFile } from './headerFile.ts';
import { readWithSharp } from './sharp.ts';
import { readPlainly, tiffPieces } from './tiffFile.ts';
import { dataPieces, extraSampleAt, tiffHeader } from './tiffHeader.ts';

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

const inflated = promisify(inflate);

/**
 * Refuses deflated data whose own checksum (Adler-32, RFC 1950) does not fit. libtiff stops reading a strip once its
 * picture is full, before the checksum, so that damage would come out as a torn picture.
 */
async function refuseDamaged(path: string, bytes: Buffer, { width, height }: Facts): Promise<void> {
  const file = new HeaderFile(path);
  try {
    // No strip or tile holds more than the whole picture with eight samples of 4 bytes a pixel, or one row of tiles more.
    const maxOutputLength = Math.min(constants.MAX_LENGTH, width * height * 32 + (1 << 26));
    await Promise.all(
      dataPieces(file).map(({ at, length }) => inflated(bytes.subarray(at, at + length), { maxOutputLength })),
    );
  } catch (error) {
    throw new Error(`its deflated data is damaged (${(error as Error).message})`, { cause: error });
  } finally {
    file.close();
  }
}

/** TIFF: integers of 8 and 16 bits read through libvips, floats and zstd by {@link readPlainly}; all written by {@link tiffPieces}. */
export const tiff = {
  recognises: (head) => /^(II[*+]\0|MM\0[*+])$/s.test(head.toString('latin1', 0, 4)),
  header: tiffHeader,
  async read(path, facts) {
    const { sample, alphaSays, compression } = facts;
    const bytes = await readFile(path);
    if (sample !== 'u8' && sample !== 'u16' && sample !== 'f16' && sample !== 'f32')
      throw new Error(`its samples are ${sample}`);
    if (sample === 'f16' || sample === 'f32' || compression === 'zstd') return readPlainly(bytes, sample);
    if (compression === 'deflate') await refuseDamaged(path, bytes, facts);
    if (alphaSays === 'premultiplied') keepPremultiplied(path, bytes);
    return readWithSharp(bytes, sample);
  },
  async write(path, image, settings) {
    await writePieces(path, await tiffPieces(image, settings));
  },
} satisfies StillFormat;
