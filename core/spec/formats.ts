import { z } from 'zod';
import {
  firstEnding,
  formatWords,
  pictureFormats,
  stillRecord,
  videoFormats,
  writtenOf,
  type Format,
} from '../formats/index.ts';
import type { WrittenFormat } from '../formats/record.ts';
import type { Facts } from '../numbering/source.ts';
import { sampleWords } from '../pixels/image.ts';

const formats: Format[] = [...pictureFormats, ...videoFormats];
export const formatSchema = z.enum(formats as [Format, ...Format[]]);

/** What a written format can hold, and what it is called. */
export type FormatRules = WrittenFormat & {
  /** As the interface writes it. */
  words: string;
  ext: string;
};

export const formatRules = Object.fromEntries(
  formats.map((format) => [
    format,
    { ...writtenOf(format), words: formatWords(format), ext: firstEnding(format) } satisfies FormatRules,
  ]),
) as Record<Format, FormatRules>;

type Readable = Pick<Facts, 'format' | 'sample' | 'channels' | 'clip' | 'compression'>;

/** Whether pictures with these facts are read by this version, and not their header alone. */
export const isRead = (facts: Readable): boolean => unreadAs(facts) === undefined;

/** What files with these facts are that makes them unreadable to this version, to be read behind "is"; undefined where they are read. */
export function unreadAs({ format, sample, channels, clip, compression }: Readable): string | undefined {
  if (clip !== undefined) return undefined;
  const record = stillRecord(format);
  // Which colours four inks make only the profile of their print says.
  if (channels[0] === 'C') return `${record?.words ?? format} in CMYK`;
  if (!record?.reads.includes(sample)) return `${formatWords(format)} of ${sampleWords(sample)} samples`;
  return compression === undefined || !record.readsCompressed || record.readsCompressed.includes(compression)
    ? undefined
    : `${record.words} compressed with ${compression}`;
}

/** What helps where a file is not read. */
export const notReadWayOut =
  'Ask for PNG, TIFF of 8 or 16 bits in RGB without compression or with LZW or deflate, or OpenEXR.';
