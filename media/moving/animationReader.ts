import { readFile } from 'node:fs/promises';
import { sharp } from '../libvips.ts';
import { codecRecord, delaysOf, type CodecId, type Image, type Rate } from '@shale/core';
import { SheetReader } from './sheet.ts';
import { LottieReader } from './lottie.ts';
import type { MadeReader } from './madeReader.ts';
import { animatedPicture, countPictures } from '../formats/jxlAnimation.ts';
import { ClipReader } from '../video/clipReader.ts';

/** Bytes of pictures that are decoded together: a decoder that begins anew at the first each time is begun seldom. */
const mostTogether = 128 << 20;

/**
 * The pictures of an animated WebP through libvips, which the video library does not decode. The encoder stores pictures that are alike
 * as one that stands longer: a picture is the one that stands at its time.
 */
class WebpReader implements MadeReader {
  private held: { from: number; to: number; data: Buffer } | undefined;

  private constructor(
    private readonly bytes: Buffer,
    /** Of stored pictures, and which of them stands for each of those that went in. */
    private readonly pages: number,
    private readonly pageOf: readonly number[],
    private readonly width: number,
    private readonly height: number,
    private readonly channels: 3 | 4,
  ) {}

  static async open(path: string, rate: Rate, expected: number): Promise<WebpReader> {
    const bytes = await readFile(path);
    const told = await sharp(bytes, { pages: -1 }).metadata();
    const { pages = 1, width, height, pageHeight = height, hasAlpha, delay: stands = [] } = told;
    const delays = delaysOf(rate, expected, 1000);
    let [begins, page, pageEnds] = [0, 0, stands[0] ?? 0];
    const pageOf: number[] = [];
    for (const delay of delays) {
      // Times are whole thousandths, and the library's last is a mean.
      while (page < pages - 1 && pageEnds <= begins + 1) pageEnds += stands[(page += 1)]!;
      // A still says no times: it stands for all.
      if (pages > 1 && pageEnds <= begins + 1) break;
      pageOf.push(page);
      begins += delay;
    }
    return new WebpReader(bytes, pages, pageOf, width, pageHeight, hasAlpha ? 4 : 3);
  }

  get count(): number {
    return this.pageOf.length;
  }

  async picture(number: number): Promise<Image> {
    const { bytes, pages, width, height, channels } = this;
    const size = width * height * channels;
    const at = this.pageOf[number]!;
    if (!this.held || at < this.held.from || at >= this.held.to) {
      const many = Math.min(pages - at, Math.max(1, Math.floor(mostTogether / size)));
      const data = await sharp(bytes, { page: at, pages: many, limitInputPixels: false, failOn: 'error' })
        .raw()
        .toBuffer();
      if (data.length !== size * many) throw new Error(`picture ${number} is of another size`);
      this.held = { from: at, to: at + many, data };
    }
    const from = (at - this.held.from) * size;
    return { width, height, channels, sample: 'u8', data: Uint8Array.from(this.held.data.subarray(from, from + size)) };
  }

  async close(): Promise<void> {
    this.held = undefined;
  }
}

/** The pictures of an animated JPEG XL, which are decoded from the first on and kept as far as they fit. */
class JxlReader implements MadeReader {
  constructor(
    private readonly path: string,
    readonly count: number,
  ) {}

  picture(at: number): Promise<Image> {
    return animatedPicture(this.path, at);
  }

  async close(): Promise<void> {
    // Nothing is held open.
  }
}

/** What is known of a file that was made. */
export interface Made {
  format: CodecId;
  hasAlpha: boolean;
  rate: Rate;
  /** What the file beside it says, where there is one. */
  beside?: string | undefined;
}

/**
 * Opens a file that was made, to be held against what went in: its pictures have alpha where those had.
 * @param expected how many pictures went in
 */
export async function openMade(path: string, made: Made, expected: number): Promise<MadeReader> {
  const { format, hasAlpha } = made;
  const reader = await open(path, made, expected);
  if (!codecRecord(format)?.animation) return reader;
  return {
    count: reader.count,
    picture: async (at) => withAlpha(await reader.picture(at), hasAlpha),
    close: () => reader.close(),
  };
}

async function open(path: string, { format, rate, beside }: Made, expected: number): Promise<MadeReader> {
  if (format === 'webpanim') return WebpReader.open(path, rate, expected);
  if (format === 'sheet') return SheetReader.open(path, beside ?? '');
  if (format === 'lottie') return LottieReader.open(path);
  if (format === 'jxlanim') return new JxlReader(path, await countPictures(path));
  return ClipReader.open(path, { threads: 2 });
}

/** A picture with alpha or without: decoders of animations give it by what the file happens to hold. */
function withAlpha(image: Image, hasAlpha: boolean): Image {
  const { width, height, channels, sample, data } = image;
  if (channels < 3 || (channels === 4) === hasAlpha) return image;
  const next = hasAlpha ? 4 : 3;
  const samples = sample === 'u16' ? new Uint16Array(width * height * next) : new Uint8Array(width * height * next);
  if (hasAlpha) samples.fill(sample === 'u16' ? 65_535 : 255);
  for (let from = 0, to = 0; from < data.length; from += channels, to += next)
    for (let channel = 0; channel < 3; channel += 1) samples[to + channel] = data[from + channel]!;
  return { width, height, channels: next, sample, data: samples };
}
