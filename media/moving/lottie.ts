import { createHash } from 'node:crypto';
import { open, readFile, type FileHandle } from 'node:fs/promises';
import { sharp } from '../libvips.ts';
import { z } from 'zod';
import { parseRate, rateNumber, type Image, type Rate } from '@shale/core';
import { refuseAbsurdSize } from '../formats/format.ts';
import { NotRead } from '../notRead.ts';
import type { VideoSettings } from '../video/videoWriter.ts';
import type { MadeReader } from './madeReader.ts';

/** A layer that shows an embedded picture from one frame up to another (Lottie 1.0, image layer). */
interface Layer {
  refId: string;
  ip: number;
  op: number;
}

/** Frames that are taken for a file that is whole. */
const mostFrames = 1_000_000;

/** A rate that a file says as a number: by three places, as people say those of 1001. */
const rateOfNumber = (value: number): Rate => parseRate(String(Number(value.toFixed(3))));

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

/** Of what a Lottie animation says, what one of embedded pictures has (Lottie 1.0). */
const lottieSchema = z.object({
  fr: z.number().positive(),
  ip: z.number(),
  op: z.number(),
  w: z.int().min(1),
  h: z.int().min(1),
  assets: z.array(z.looseObject({ id: z.string(), p: z.string().optional() })).default([]),
  layers: z.array(
    z.looseObject({ ty: z.int(), refId: z.string().optional(), ip: z.number(), op: z.number(), ks: z.unknown() }),
  ),
});

/** Where a layer is that covers the whole picture as it is: nothing moved, turned, scaled or clear. */
const stillSchema = z.looseObject({
  o: z.looseObject({ a: z.literal(0).optional(), k: z.literal(100) }).optional(),
  r: z.looseObject({ a: z.literal(0).optional(), k: z.literal(0) }).optional(),
  p: z.looseObject({ a: z.literal(0).optional(), k: z.array(z.literal(0)) }).optional(),
  a: z.looseObject({ a: z.literal(0).optional(), k: z.array(z.literal(0)) }).optional(),
  s: z.looseObject({ a: z.literal(0).optional(), k: z.array(z.literal(100)) }).optional(),
});

const drawn = (): NotRead =>
  new NotRead(
    'it draws shapes: not every frame is one embedded picture',
    'Ask for it rendered as pictures or as a video.',
  );

/** Reads a Lottie animation whose every frame is one embedded picture. */
export class LottieReader implements MadeReader {
  private constructor(
    readonly width: number,
    readonly height: number,
    /** Frames a second. */
    readonly rate: Rate,
    private readonly assets: ReadonlyMap<string, string>,
    /** Which picture shows at each frame. */
    private readonly shown: readonly string[],
  ) {}

  get count(): number {
    return this.shown.length;
  }

  /** @throws NotRead where it draws what it shows @throws Error where it is none */
  static async open(path: string): Promise<LottieReader> {
    const { data, error } = lottieSchema.safeParse(JSON.parse(await readFile(path, 'utf8')));
    if (!data) throw new Error(`its ${error.issues[0]!.path.join('.')} is not that of a Lottie animation`);
    const { fr, ip, op, w, h, assets, layers } = data;
    refuseAbsurdSize(w, h);
    const pictures = new Map(
      assets.flatMap(({ id, p = '' }) => (p.startsWith('data:image/') ? [[id, p] as const] : [])),
    );
    const frames = Math.round(op - ip);
    if (frames < 1 || frames > mostFrames) throw new Error(`it claims ${frames} frames`);
    const shown = new Array<string | undefined>(frames).fill(undefined);
    for (const { ty, refId = '', ip: from, op: to, ks } of layers) {
      if (ty !== 2 || !pictures.has(refId) || !stillSchema.safeParse(ks).success) throw drawn();
      for (let at = Math.max(0, Math.ceil(from - ip)); at < Math.min(frames, to - ip); at += 1) {
        if (shown[at] !== undefined) throw drawn();
        shown[at] = refId;
      }
    }
    const all = shown.filter((id) => id !== undefined);
    if (all.length < frames) throw drawn();
    return new LottieReader(w, h, rateOfNumber(fr), pictures, all);
  }

  async picture(at: number): Promise<Image> {
    const coded = this.assets.get(this.shown[at] ?? '');
    if (coded === undefined) throw new Error(`no picture shows at frame ${at}`);
    const bytes = Buffer.from(coded.slice(coded.indexOf(',') + 1), 'base64');
    const { data, info } = await sharp(bytes, { limitInputPixels: false, failOn: 'error' })
      .toColourspace('srgb')
      .raw()
      .toBuffer({ resolveWithObject: true });
    const { width, height } = info;
    if (width !== this.width || height !== this.height)
      throw new Error(
        `the picture at frame ${at} has ${width} x ${height} pixels, and the animation ${this.width} x ${this.height}`,
      );
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
