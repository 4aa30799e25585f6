import {
  formatRules,
  formatWords,
  greyToColour,
  isVideoFormat,
  notReadWayOut,
  ShaleError,
  unreadAs,
  type Facts,
  type Format,
  type Image,
  type StillId,
  type stills,
  type WrittenStillId,
} from '@shale/core';
import { NotRead, refusalOf } from '../notRead.ts';
import { nameOfFile, placeOfFile } from '../heldFiles.ts';
import { avif } from './avif.ts';
import { bmp } from './bmp.ts';
import { cineon } from './cineon.ts';
import { dpx } from './dpx.ts';
import { lottie, sheet } from './embedded.ts';
import { exr } from './exr.ts';
import type { Carried, ReadPicture, StillFormat, StillHeader, WriteSettings } from './format.ts';
import { gif } from './gif.ts';
import { CutShort, HeaderFile } from './headerFile.ts';
import { jpeg } from './jpeg.ts';
import { jxl } from './jxl.ts';
import { png } from './png.ts';
import { pam, pfm, pnm } from './pnm.ts';
import { tga } from './tga.ts';
import { tiff } from './tiff.ts';
import { webp } from './webp.ts';

/** What a format's implementation must have: a way to read where its record says that it is read, and to write where it is written. */
type Implementation<K extends StillId> = StillFormat &
  ((typeof stills)[K]['reads'] extends readonly [] ? object : { layered: true } | Required<Pick<StillFormat, 'read'>>) &
  (K extends WrittenStillId ? Required<Pick<StillFormat, 'write'>> : object);

/** Every still format of core/formats; in this order a file is asked for: TGA last, since its name alone tells it. */
const implementations: { [K in StillId]: Implementation<K> } = {
  png,
  jpeg,
  tiff,
  exr,
  dpx,
  cin: cineon,
  webp,
  gif,
  bmp,
  pnm,
  pam,
  pfm,
  jxl,
  avif,
  lottie,
  sheet,
  tga,
};
const stillFormats = Object.entries(implementations) as [StillId, StillFormat][];

const lost = new Set(['ENOENT', 'ENOTDIR']);

/** The refusal of a file that is not whole. */
const cut = (path: string, how: string): ShaleError =>
  new ShaleError({
    code: 'truncated-file',
    fact: `${nameOfFile(path)} is cut short: ${how}.`,
    wayOut: 'Render or copy the frame again, or leave it out.',
    subject: placeOfFile(path),
  });

/** What went wrong with a file, named: gone, not allowed, empty, unknown or damaged. */
export function fileError(path: string, error: unknown): ShaleError {
  if (error instanceof ShaleError) return error;
  if (error instanceof CutShort) return cut(path, error.message);
  const name = nameOfFile(path);
  if (error instanceof NotRead) return refusalOf(path, error);
  const { code, message } = error as NodeJS.ErrnoException;
  if (code !== undefined && lost.has(code)) {
    return new ShaleError({
      code: 'file-gone',
      fact: `${name} no longer exists.`,
      wayOut: 'Scan the folder again; put the file back or leave the frame out.',
      subject: placeOfFile(path),
    });
  }
  if (code === 'EACCES' || code === 'EPERM') {
    return new ShaleError({
      code: 'not-allowed',
      fact: `${name} cannot be read: permission denied.`,
      wayOut: 'Give the account that runs Shale the right to read it.',
      subject: placeOfFile(path),
    });
  }
  return new ShaleError({
    code: 'damaged-file',
    fact: `${name} cannot be read: ${message}.`,
    wayOut: 'Render the frame again, or leave it out.',
    subject: placeOfFile(path),
  });
}

function formatOf({ head, path }: HeaderFile, known?: Format): StillFormat {
  if (head.length === 0) {
    throw new ShaleError({
      code: 'empty-file',
      fact: `${nameOfFile(path)} is empty.`,
      wayOut: 'Render the frame again, or leave it out.',
      subject: placeOfFile(path),
    });
  }
  if (known && !isVideoFormat(known)) return implementations[known];
  const found = stillFormats.find(([, one]) => one.recognises(head, nameOfFile(path)));
  if (found) return found[1];
  throw new ShaleError({
    code: 'unknown-format',
    fact: `${nameOfFile(path)} is not a picture in a format that this version reads.`,
    wayOut: `It reads ${Object.keys(implementations).map(formatWords).join(', ')}; a wrong ending does not matter, the contents do.`,
    subject: placeOfFile(path),
  });
}

/** Texts as facts have them: those of a hundred thousand files are kept in lists. */
const beginningsOf = (texts: [string, string][]): [string, string][] =>
  texts
    .slice(0, 32)
    .map(([name, text]) => [name.slice(0, 60), text.length <= 120 ? text : `${text.slice(0, 120)} ...`]);

/** The header of an open still, for whoever reads more of it. @throws ShaleError naming the file, `truncated-file` where it is not whole */
export async function headerOf(file: HeaderFile, known?: Format): Promise<StillHeader> {
  try {
    const header = await formatOf(file, known).header(file);
    if (header.cutShort !== undefined) throw new CutShort(header.cutShort);
    if (!header.texts) return header;
    return { ...header, facts: { ...header.facts, texts: beginningsOf(header.texts) } };
  } catch (error) {
    throw fileError(file.path, error);
  }
}

/** Header facts of a still, by its contents. @throws ShaleError naming the file, `truncated-file` where it is not whole */
export async function probeStill(path: string): Promise<Facts> {
  const file = openStill(path);
  try {
    return (await headerOf(file)).facts;
  } finally {
    file.close();
  }
}

/** Opens a still for its header; the caller closes it. @throws ShaleError naming the file */
export function openStill(path: string): HeaderFile {
  try {
    return new HeaderFile(path);
  } catch (error) {
    throw fileError(path, error);
  }
}

/**
 * The picture in a file, in the file's own samples. The header is looked at first, so that an absurd size is refused
 * before memory is taken. @throws ShaleError naming the file
 */
export async function readStill(path: string, wanted: Wanted = {}): Promise<Image> {
  return (await readWhole(path, wanted)).image;
}

/** What is read of a file. */
export interface Wanted {
  /** One of its layers; null or absent for its main picture. */
  layer?: string | null;
  /** What of a file with windows of its own is the picture: what is shown, or all that there is. */
  window?: 'display' | 'data';
  /** Which picture of an animation, from 0. */
  picture?: number;
  /** The format of a file that was just written under a temporary name; else its contents and its name tell. */
  format?: Format;
}

/** A picture, and what its file says beside it. */
export interface Whole {
  image: Image;
  facts: Facts;
  carried: Carried;
}

/** {@link readStill} with all that the file says. */
export async function readWhole(
  path: string,
  { layer = null, picture = 0, window = 'display', format: known }: Wanted = {},
): Promise<Whole> {
  const file = openStill(path);
  let header: StillHeader;
  let format: StillFormat;
  try {
    header = await headerOf(file, known);
    format = formatOf(file, known);
  } finally {
    file.close();
  }
  const { facts, attributes, texts } = header;
  const unread = unreadAs(facts);
  if (unread) {
    throw new ShaleError({
      code: 'format-not-read',
      fact: `${nameOfFile(path)} is ${unread}, which this version cannot read.`,
      wayOut: notReadWayOut,
      subject: placeOfFile(path),
    });
  }
  if (layer !== null && !header.read) {
    throw new ShaleError({
      code: 'no-such-layer',
      fact: `${nameOfFile(path)} has no layers, but layer "${layer}" is asked for.`,
      wayOut: 'Use the main picture.',
      subject: placeOfFile(path),
    });
  }
  try {
    const { image, windows }: ReadPicture = header.read
      ? await header.read(layer, window)
      : { image: await format.read!(path, facts, picture) };
    const { rate, timecode, pixelAspect } = facts;
    return { image, facts, carried: { rate, timecode, pixelAspect, attributes, texts, windows } };
  } catch (error) {
    throw fileError(path, error);
  }
}

/** Writes a still to a path that does not exist. @throws whatever the disk or the codec says */
export async function writeStill(path: string, format: Format, image: Image, settings: WriteSettings): Promise<void> {
  if (isVideoFormat(format)) throw new Error(`${format} is not a still format`);
  await implementations[format].write(path, fitLayout(image, format), settings);
}

/** A picture with the channels that a format has a layout for: grey becomes colour where it has none for grey. Bit-exact. */
export const fitLayout = (image: Image, format: Format): Image =>
  formatRules[format].without?.includes(image.channels) ? greyToColour(image) : image;

export type { HeaderFile } from './headerFile.ts';
export { usualSettings, type Carried, type StillHeader, type WriteSettings } from './format.ts';
