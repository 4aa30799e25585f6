import { readFile } from 'node:fs/promises';
import sharp from 'sharp';
import { codecRecord, type CodecId, type Image } from '@shale/core';
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

/** Opens a file that was made, to be held against what went in: its pictures have alpha where those had. */
export async function openMade(
  path: string,
  { format, hasAlpha }: { format: CodecId; hasAlpha: boolean },
): Promise<MadeReader> {
  const reader = await (format === 'webpanim' ? WebpReader.open(path) : ClipReader.open(path, { threads: 2 }));
  if (!codecRecord(format)?.animation) return reader;
  return {
    count: reader.count,
    picture: async (at) => withAlpha(await reader.picture(at), hasAlpha),
    close: () => reader.close(),
  };
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
