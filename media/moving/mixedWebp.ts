import { writeFile } from 'node:fs/promises';
import { sharp } from '../libvips.ts';
import { delaysOf, printBytes, ShaleError, type Image } from '@shale/core';
import type { VideoSettings } from '../video/videoWriter.ts';

/** Bytes of pictures that libvips is given at once. */
const mostHeld = 1 << 30;

/** An animated WebP of which each picture is kept by quality or lossless, whichever has fewer bytes: libvips takes all of them together. */
export class MixedWebpWriter {
  private readonly pictures: Uint8Array[] = [];
  private held = 0;
  bytes = 0;

  private constructor(
    private readonly path: string,
    private readonly settings: VideoSettings,
  ) {}

  /** @param path a path that does not exist */
  static async open(path: string, settings: VideoSettings): Promise<MixedWebpWriter> {
    return new MixedWebpWriter(path, settings);
  }

  async add({ data }: Image): Promise<void> {
    this.held += data.byteLength;
    if (this.held > mostHeld)
      throw new ShaleError({
        code: 'too-large-to-mix',
        fact: `The first ${this.pictures.length + 1} pictures have ${printBytes(this.held)}, and a WebP that mixes holds at most ${printBytes(mostHeld)} at once.`,
        wayOut: 'Make the pictures smaller, use fewer, or write all by quality or all lossless.',
        subject: 'video.mixed',
      });
    this.pictures.push(Uint8Array.from(data));
  }

  async finish(): Promise<void> {
    const { width, height, hasAlpha, rate, video } = this.settings;
    const count = this.pictures.length;
    const raw = { width, height: height * count, channels: hasAlpha ? 4 : 3, pageHeight: height } as const;
    const coded = await sharp(Buffer.concat(this.pictures), { raw, limitInputPixels: false })
      .webp({
        ...{ mixed: true, quality: video.quality, alphaQuality: 100, effort: 4 },
        ...{ loop: video.plays ?? 0, delay: delaysOf(rate, count, 1000) },
      })
      .toBuffer();
    this.bytes = coded.length;
    await writeFile(this.path, coded, { flag: 'wx' });
  }

  async close(): Promise<void> {
    this.pictures.length = 0;
  }
}
