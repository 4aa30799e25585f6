import { readFile } from 'node:fs/promises';
import sharp from 'sharp';
import type { CodecId, Image } from '@shale/core';
import { ClipReader } from '../video/clipReader.ts';

/** Reads what was made, picture by picture in their order. */
export interface MadeReader {
  readonly count: number;
  /** @throws Error where it cannot be read */
  picture(at: number): Promise<Image>;
  close(): Promise<void>;
}

/** Bytes of pictures that are decoded together: a decoder that begins anew at the first each time is begun seldom. */
const mostTogether = 128 << 20;

/** The pictures of an animated WebP through libvips, which the video library does not decode. */
class WebpReader implements MadeReader {
  private held: { from: number; to: number; data: Buffer } | undefined;

  private constructor(
    private readonly bytes: Buffer,
    readonly count: number,
    private readonly width: number,
    private readonly height: number,
    private readonly channels: 3 | 4,
  ) {}

  static async open(path: string): Promise<WebpReader> {
    const bytes = await readFile(path);
    const { pages = 1, width, height, pageHeight = height, hasAlpha } = await sharp(bytes, { pages: -1 }).metadata();
    return new WebpReader(bytes, pages, width, pageHeight, hasAlpha ? 4 : 3);
  }

  async picture(at: number): Promise<Image> {
    const { bytes, count, width, height, channels } = this;
    const size = width * height * channels;
    if (!this.held || at < this.held.from || at >= this.held.to) {
      const many = Math.min(count - at, Math.max(1, Math.floor(mostTogether / size)));
      const data = await sharp(bytes, { page: at, pages: many, limitInputPixels: false, failOn: 'error' })
        .raw()
        .toBuffer();
      if (data.length !== size * many) throw new Error(`picture ${at} is of another size`);
      this.held = { from: at, to: at + many, data };
    }
    const from = (at - this.held.from) * size;
    return { width, height, channels, sample: 'u8', data: Uint8Array.from(this.held.data.subarray(from, from + size)) };
  }

  async close(): Promise<void> {
    this.held = undefined;
  }
}

/** Opens a file that was made, to be held against what went in. */
export const openMade = (path: string, format: CodecId): Promise<MadeReader> =>
  format === 'webpanim' ? WebpReader.open(path) : ClipReader.open(path, { threads: 2 });
