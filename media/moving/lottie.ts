import { createHash } from 'node:crypto';
import { open, readFile, type FileHandle } from 'node:fs/promises';
import sharp from 'sharp';
import { rateNumber, type Image } from '@shale/core';
import type { VideoSettings } from '../video/videoWriter.ts';
import type { MadeReader } from './madeReader.ts';

/** A layer that shows an embedded picture from one frame up to another (Lottie 1.0, image layer). */
interface Layer {
  refId: string;
  ip: number;
  op: number;
}

/** What stays where it is and as it is. */
const still = {
  o: { a: 0, k: 100 },
  r: { a: 0, k: 0 },
  p: { a: 0, k: [0, 0, 0] },
  a: { a: 0, k: [0, 0, 0] },
  s: { a: 0, k: [100, 100, 100] },
};

/** Writes a Lottie animation (Lottie 1.0) of which every picture is embedded: as PNG, or as WebP where it may be lossy. */
export class LottieWriter {
  private readonly layers: Layer[] = [];
  private last = '';
  private count = 0;
  bytes = 0;

  private constructor(
    private readonly settings: VideoSettings,
    private readonly file: FileHandle,
  ) {}

  /** @param path a path that does not exist */
  static async open(path: string, settings: VideoSettings): Promise<LottieWriter> {
    const file = await open(path, 'wx');
    const writer = new LottieWriter(settings, file);
    const { width: w, height: h, rate } = settings;
    const head = {
      v: '5.7.0',
      ver: 10_000,
      fr: rate.num / rate.den,
      ip: 0,
      w,
      h,
      ddd: 0,
      nm: `${rateNumber(rate)} fps`,
    };
    await writer.put(`${JSON.stringify(head).slice(0, -1)},"assets":[`);
    return writer;
  }

  async add({ width, height, channels, data }: Image): Promise<void> {
    const at = this.count;
    this.count += 1;
    const digest = createHash('sha256').update(data).digest('base64');
    const before = this.layers.at(-1);
    if (before && digest === this.last) {
      // The same picture again stands longer.
      before.op = this.count;
      return;
    }
    this.last = digest;
    const { video } = this.settings;
    const raw = sharp(Buffer.from(data.buffer, data.byteOffset, data.byteLength), {
      raw: { width, height, channels: channels as 3 | 4 },
      limitInputPixels: false,
    });
    const coded = video.lossless
      ? await raw.png({ compressionLevel: 9, adaptiveFiltering: true }).toBuffer()
      : await raw.webp({ quality: video.quality, alphaQuality: 100 }).toBuffer();
    const id = `picture${this.layers.length}`;
    const kind = video.lossless ? 'png' : 'webp';
    const asset = { id, w: width, h: height, u: '', p: `data:image/${kind};base64,${coded.toString('base64')}`, e: 1 };
    await this.put(`${this.layers.length > 0 ? ',' : ''}${JSON.stringify(asset)}`);
    this.layers.push({ refId: id, ip: at, op: this.count });
  }

  async finish(): Promise<void> {
    const layers = this.layers.map((layer, at) => ({
      ddd: 0,
      ind: at + 1,
      ty: 2,
      nm: layer.refId,
      sr: 1,
      ks: still,
      ao: 0,
      ...layer,
      st: 0,
      bm: 0,
    }));
    await this.put(`],"layers":${JSON.stringify(layers)},"op":${this.count}}`);
  }

  async close(): Promise<void> {
    await this.file.close();
  }

  private async put(text: string): Promise<void> {
    await this.file.appendFile(text);
    this.bytes += Buffer.byteLength(text);
  }
}

/** Reads such a file again, picture by picture. */
export class LottieReader implements MadeReader {
  private constructor(
    private readonly assets: ReadonlyMap<string, string>,
    private readonly layers: readonly Layer[],
    readonly count: number,
  ) {}

  /** @throws Error where it is none */
  static async open(path: string): Promise<LottieReader> {
    const { assets, layers, op } = JSON.parse(await readFile(path, 'utf8')) as {
      assets: { id: string; p: string }[];
      layers: Layer[];
      op: number;
    };
    return new LottieReader(new Map(assets.map(({ id, p }) => [id, p])), layers, op);
  }

  async picture(at: number): Promise<Image> {
    const layer = this.layers.find(({ ip, op }) => ip <= at && at < op);
    const coded = this.assets.get(layer?.refId ?? '');
    if (!coded) throw new Error(`no picture shows at frame ${at}`);
    const bytes = Buffer.from(coded.slice(coded.indexOf(',') + 1), 'base64');
    const { data, info } = await sharp(bytes, { limitInputPixels: false, failOn: 'error' })
      .raw()
      .toBuffer({ resolveWithObject: true });
    const { width, height } = info;
    return { width, height, channels: info.channels as 3 | 4, sample: 'u8', data: Uint8Array.from(data) };
  }

  async close(): Promise<void> {
    // Nothing is held open.
  }
}

/** Characters that each embedded picture takes. */
export async function lottieFrames(path: string): Promise<number[]> {
  const { assets } = JSON.parse(await readFile(path, 'utf8')) as { assets: { p: string }[] };
  return assets.map(({ p }) => p.length);
}
