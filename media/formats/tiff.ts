import { promisify } from 'node:util';
import { inflate } from 'node:zlib';
import type { Facts, Image } from '@shale/core';
import { roomFor, withBytes } from '../room.ts';
import { tiffAddon } from '../tiff/addon.ts';
import { writePieces, type StillFormat } from './format.ts';
import { HeaderFile } from './headerFile.ts';
import { isOldLzw, lzwLength } from './lzw.ts';
import { readWithSharp } from './sharp.ts';
import { readPlainly, tiffPieces } from './tiffFile.ts';
import { dataPieces, extraSampleAt, isBeyondLibvips, plainLayout, tiffHeader } from './tiffHeader.ts';

/**
 * libvips divides colour by alpha where the file says that alpha is associated, and rounds. What is stored is wanted, to
 * the letter: the copy in memory is made to say unassociated (2; TIFF 6.0, section 18), and nothing is divided.
 */
function keepPremultiplied(path: string, bytes: Buffer): void {
  const at = opened(path, extraSampleAt);
  if (at?.little) bytes.writeUInt16LE(2, at.place);
  else if (at) bytes.writeUInt16BE(2, at.place);
}

/** Asks the header of a file. */
function opened<T>(path: string, ask: (file: HeaderFile) => T): T {
  const file = new HeaderFile(path);
  try {
    return ask(file);
  } finally {
    file.close();
  }
}

const inflated = promisify(inflate);

/**
 * Refuses compressed data that shows its damage: deflated data whose own checksum (Adler-32, RFC 1950) does not fit, LZW with codes
 * that cannot be, and either where it stands for another length than its strip or tile has. libtiff stops reading once its
 * picture is full, so that damage would come out as a torn picture.
 */
async function refuseDamaged(path: string, bytes: Buffer, compression: 'deflate' | 'lzw'): Promise<void> {
  try {
    await Promise.all(
      opened(path, dataPieces).map(async ({ at, length, needs, most }) => {
        const piece = bytes.subarray(at, at + length);
        if (compression === 'lzw' && isOldLzw(piece)) return;
        const found =
          compression === 'lzw' ? lzwLength(piece) : (await inflated(piece, { maxOutputLength: most + slack })).length;
        const fits = compression === 'lzw' ? found === needs || found === most : found >= needs;
        if (!fits) throw new Error(`${found} bytes where it has ${needs}`);
      }),
    );
  } catch (error) {
    throw new Error(`its compressed data is damaged (${(error as Error).message})`, { cause: error });
  }
}

/** Bytes that a writer may have deflated behind the last row. */
const slack = 4096;

/** A file whose samples lie as our own addon reads them; undefined where they lie otherwise. */
async function readPlain(bytes: Buffer, path: string, { channels, sample }: Facts): Promise<Image | undefined> {
  const found = opened(path, (file) => plainLayout(file, channels.length));
  if (!found || sample === 'u10' || sample === 'u12') return undefined;
  const { layout, pieces } = found;
  const isOld = (_: number, at: number) =>
    at % 2 === 0 && isOldLzw(bytes.subarray(pieces[at], pieces[at]! + pieces[at + 1]!));
  if (layout.compression === 5 && pieces.some(isOld)) return undefined;
  const { width, height, taken } = layout;
  const data = roomFor(sample, width * height * taken);
  await tiffAddon.decode(bytes, layout, pieces, new Uint8Array(data.buffer, 0, data.byteLength));
  return { width, height, channels: taken as Image['channels'], sample, data };
}

/** By libvips, or by {@link readPlainly} what it does not read. */
async function readOtherwise(bytes: Buffer, path: string, facts: Facts): Promise<Image> {
  const { sample, alphaSays, compression } = facts;
  if (sample !== 'u8' && sample !== 'u16' && sample !== 'f16' && sample !== 'f32')
    throw new Error(`its samples are ${sample}`);
  if (compression === 'deflate' || compression === 'lzw') await refuseDamaged(path, bytes, compression);
  if (sample === 'f16' || sample === 'f32' || compression === 'zstd' || opened(path, isBeyondLibvips))
    return readPlainly(bytes, sample, facts.channels.length, facts.hasAlpha);
  if (alphaSays === 'premultiplied') keepPremultiplied(path, bytes);
  return readWithSharp(bytes, sample);
}

/** TIFF: whole bytes of grey and colour read by our own addon, what else there is by {@link readOtherwise}; all written by {@link tiffPieces}. */
export const tiff = {
  recognises: (head) => /^(II[*+]\0|MM\0[*+])$/s.test(head.toString('latin1', 0, 4)),
  header: tiffHeader,
  read: (path, facts) =>
    withBytes(path, async (bytes) => (await readPlain(bytes, path, facts)) ?? readOtherwise(bytes, path, facts)),
  async write(path, image, settings) {
    await writePieces(path, await tiffPieces(image, settings));
  },
} satisfies StillFormat;
