import { open } from 'node:fs/promises';
import { basename } from 'node:path';
import { formatSchema, ShaleError, type Facts, type Format, type Image } from '@shale/core';
import { dpx } from './dpx.ts';
import { exr } from './exr.ts';
import type { StillFormat, WriteSettings } from './format.ts';
import { jpeg } from './jpeg.ts';
import { png } from './png.ts';
import { tga } from './tga.ts';
import { tiff } from './tiff.ts';

/** Every still format; TGA last, since its name alone tells it. */
export const stillFormats: readonly StillFormat[] = [png, jpeg, tiff, exr, dpx, tga];

const headBytes = 512;

/** The first bytes of a file. */
async function headOf(path: string): Promise<Buffer> {
  const file = await open(path, 'r');
  try {
    const head = Buffer.alloc(headBytes);
    const { bytesRead } = await file.read(head, 0, headBytes, 0);
    return head.subarray(0, bytesRead);
  } finally {
    await file.close();
  }
}

const lost = new Set(['ENOENT', 'ENOTDIR']);

/** What went wrong with a file, named: gone, not allowed, empty, unknown or damaged. */
function fileError(path: string, error: unknown): ShaleError {
  if (error instanceof ShaleError) return error;
  const name = basename(path);
  const { code, message } = error as NodeJS.ErrnoException;
  if (code !== undefined && lost.has(code)) {
    return new ShaleError({
      code: 'file-gone',
      fact: `${name} is no longer there.`,
      wayOut: 'Scan the folder again; put the file back or leave the frame out.',
      subject: path,
    });
  }
  if (code === 'EACCES' || code === 'EPERM') {
    return new ShaleError({
      code: 'not-allowed',
      fact: `${name} may not be read.`,
      wayOut: 'Give the account that runs Shale the right to read it.',
      subject: path,
    });
  }
  return new ShaleError({
    code: 'damaged-file',
    fact: `${name} cannot be read: ${message}.`,
    wayOut: 'Have the frame made again, or leave it out.',
    subject: path,
  });
}

async function formatOf(path: string): Promise<StillFormat> {
  const head = await headOf(path);
  if (head.length === 0) {
    throw new ShaleError({
      code: 'empty-file',
      fact: `${basename(path)} holds no byte.`,
      wayOut: 'Have the frame made again, or leave it out.',
      subject: path,
    });
  }
  const format = stillFormats.find((one) => one.recognises(head, basename(path)));
  if (format) return format;
  throw new ShaleError({
    code: 'unknown-format',
    fact: `${basename(path)} is not a picture in a format that this version reads.`,
    wayOut: `It reads ${stillFormats.map(({ id }) => id).join(', ')}; a wrong ending does not matter, the contents do.`,
    subject: path,
  });
}

async function named<T>(path: string, work: (format: StillFormat) => Promise<T>): Promise<T> {
  try {
    return await work(await formatOf(path));
  } catch (error) {
    throw fileError(path, error);
  }
}

/** Header facts of a still, by its contents. @throws ShaleError naming the file */
export const probeStill = (path: string): Promise<Facts> => named(path, (format) => format.probe(path));

/**
 * The picture in a file, in the file's own samples. The header is probed first, so that an absurd size is refused
 * before memory is taken. @throws ShaleError naming the file
 */
export const readStill = (path: string): Promise<Image> =>
  named(path, async (format) => {
    await format.probe(path);
    return format.read(path);
  });

const writers = new Map(stillFormats.flatMap((format) => (format.write ? [[format.id, format] as const] : [])));

/** Writes a still to a path that does not exist. @throws whatever the disk or the codec says */
export async function writeStill(path: string, format: Format, image: Image, settings: WriteSettings): Promise<void> {
  await writers.get(formatSchema.parse(format))!.write!(path, image, settings);
}

export type { WriteSettings } from './format.ts';
