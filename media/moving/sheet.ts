import { createHash } from 'node:crypto';
import { writeFile } from 'node:fs/promises';
import potpack from 'potpack';
import { sharp } from '../libvips.ts';
import { z } from 'zod';
import { contentBox, rateFraction, ShaleError, type Image } from '@shale/core';
import type { VideoSettings } from '../video/videoWriter.ts';
import type { MadeReader } from './madeReader.ts';

/** A box of pixels. */
const box = { x: z.int().min(0), y: z.int().min(0), width: z.int().min(1), height: z.int().min(1) };

/** What is told beside the picture of a sprite sheet. Lengths are pixels, counted from the upper left. */
export const sheetSchema = z.object({
  kind: z.literal('sprite sheet'),
  /** Its file's name is the JSON's with this ending. */
  picture: z.enum(['png', 'webp']),
  width: z.int().min(1),
  height: z.int().min(1),
  /** Of a whole frame, before what is clear around it was cut off. */
  frame: z.object({ width: z.int().min(1), height: z.int().min(1) }),
  /** Whether a frame has clear pixels, on the sheet or around its box. */
  alpha: z.boolean(),
  /** Frames a second, a fraction in lowest terms. */
  rate: z.string(),
  /** How often it plays; null for ever. */
  plays: z.int().min(1).nullable(),
  /** In the order in which they show: where each is on the sheet, where it goes in a whole frame, and how long it stands. */
  frames: z.array(z.object({ ...box, left: z.int().min(0), top: z.int().min(0), milliseconds: z.number() })),
});
export type Sheet = z.infer<typeof sheetSchema>;

interface Packed {
  w: number;
  h: number;
  x: number;
  y: number;
}

/** A frame without what is clear around it. */
interface Cut {
  left: number;
  top: number;
  width: number;
  height: number;
  /** RGBA. */
  data: Buffer;
}

/** What of a frame goes onto the sheet: all that is not clear, or one pixel where all is. */
const contentOf = (image: Image, trims: boolean): Omit<Cut, 'data'> => {
  const whole = { left: 0, top: 0, width: image.width, height: image.height };
  return trims ? (contentBox(image) ?? { ...whole, width: 1, height: 1 }) : whole;
};

/** The pixels of a box of a picture as RGBA. */
function pixelsOf({ width: across, channels, data }: Image, { left, top, width, height }: Omit<Cut, 'data'>): Buffer {
  const pixels = Buffer.alloc(width * height * 4, 255);
  for (let y = 0, to = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1, to += 4) {
      const from = ((top + y) * across + left + x) * channels;
      for (let channel = 0; channel < channels; channel += 1) pixels[to + channel] = data[from + channel]!;
    }
  return pixels;
}

const tooLarge = (fact: string, most: number): ShaleError =>
  new ShaleError({
    code: 'sheet-too-large',
    fact: `${fact}, and a side of the sheet may have at most ${most.toLocaleString('en-GB')}.`,
    wayOut: 'Raise the limit of a side, make the frames smaller, or use fewer.',
    subject: 'video.sheetSide',
  });

/** Lays frames beside each other on one picture, each once, and tells where they are. */
export class SheetWriter {
  private readonly cuts: (Packed & Cut)[] = [];
  private readonly byDigest = new Map<string, number>();
  /** Which cut each frame shows, and where in the frame. */
  private readonly frames: { cut: number; left: number; top: number }[] = [];
  private area = 0;
  bytes = 0;
  /** Of the JSON, once it is finished. */
  beside: string | undefined;

  private constructor(
    private readonly path: string,
    private readonly settings: VideoSettings,
  ) {}

  /** @param path a path that does not exist */
  static async open(path: string, settings: VideoSettings): Promise<SheetWriter> {
    const { width, height, video } = settings;
    if (!video.sheetTrim && Math.max(width, height) > video.sheetSide)
      throw tooLarge(`A frame has ${width} x ${height} pixels`, video.sheetSide);
    return new SheetWriter(path, settings);
  }

  async add(image: Image): Promise<void> {
    const { sheetTrim, sheetSide, sheetGap } = this.settings.video;
    const content = contentOf(image, sheetTrim);
    const data = pixelsOf(image, content);
    const digest = createHash('sha256').update(`${content.width} `).update(data).digest('base64');
    let cut = this.byDigest.get(digest);
    if (cut === undefined) {
      cut = this.cuts.length;
      this.byDigest.set(digest, cut);
      this.cuts.push({ ...content, data, w: content.width + sheetGap, h: content.height + sheetGap, x: 0, y: 0 });
      this.area += content.width * content.height;
      // So much that it cannot fit, whatever follows: no more is held.
      if (this.area > sheetSide * sheetSide)
        throw tooLarge(
          `The first ${this.frames.length + 1} frames have ${this.area.toLocaleString('en-GB')} pixels`,
          sheetSide,
        );
    }
    this.frames.push({ cut, left: content.left, top: content.top });
  }

  async finish(): Promise<void> {
    const { cuts, settings } = this;
    const { sheetSide, sheetGap, container, plays } = settings.video;
    // It sorts what it is given.
    const packed = potpack([...cuts]);
    const [width, height] = [Math.max(1, packed.w - sheetGap), Math.max(1, packed.h - sheetGap)];
    if (Math.max(width, height) > sheetSide)
      throw tooLarge(`The sheet would have ${width} x ${height} pixels`, sheetSide);
    const pixels = Buffer.alloc(width * height * 4);
    for (const { x, y, width: across, height: down, data } of cuts)
      for (let row = 0; row < down; row += 1)
        data.copy(pixels, ((y + row) * width + x) * 4, row * across * 4, (row + 1) * across * 4);
    const raw = sharp(pixels, { raw: { width, height, channels: 4 }, limitInputPixels: false });
    const picture = container === 'webp' ? 'webp' : 'png';
    const drawn = settings.hasAlpha ? raw : raw.removeAlpha();
    const coded =
      picture === 'webp'
        ? await drawn.webp({ lossless: true, exact: true }).toBuffer()
        : await drawn.png({ compressionLevel: 9, adaptiveFiltering: true }).toBuffer();
    await writeFile(this.path, coded, { flag: 'wx' });
    this.bytes = coded.length;
    const { rate } = settings;
    const told: Sheet = {
      kind: 'sprite sheet',
      picture,
      width,
      height,
      frame: { width: settings.width, height: settings.height },
      alpha: settings.hasAlpha,
      rate: rateFraction(rate),
      plays,
      frames: this.frames.map(({ cut, left, top }) => {
        const { x, y, width: across, height: down } = cuts[cut]!;
        return { x, y, width: across, height: down, left, top, milliseconds: (1000 * rate.den) / rate.num };
      }),
    };
    this.beside = `${JSON.stringify(told, null, 1)}\n`;
  }

  async close(): Promise<void> {
    this.cuts.length = 0;
  }
}

/** Reads a sprite sheet frame by frame: each as it was before what is clear around it was cut off. */
export class SheetReader implements MadeReader {
  private constructor(
    private readonly sheet: Sheet,
    private readonly pixels: Buffer,
    private readonly channels: 3 | 4,
  ) {}

  /** @param picture the path of its picture @param beside what its JSON says @throws Error where they do not belong together */
  static async open(picture: string, beside: string): Promise<SheetReader> {
    const sheet = parseSheet(beside);
    const read = sharp(picture, { limitInputPixels: false, failOn: 'error' }).toColourspace('srgb');
    // WebP leaves alpha out where all of it is opaque.
    const { data, info } = await (sheet.alpha ? read.ensureAlpha() : read.removeAlpha())
      .raw()
      .toBuffer({ resolveWithObject: true });
    if (info.width !== sheet.width || info.height !== sheet.height)
      throw new Error(
        `its picture has ${info.width} x ${info.height} pixels, its JSON says ${sheet.width} x ${sheet.height}`,
      );
    return new SheetReader(sheet, data, sheet.alpha ? 4 : 3);
  }

  get count(): number {
    return this.sheet.frames.length;
  }

  async picture(at: number): Promise<Image> {
    const { sheet, pixels, channels } = this;
    const cut = sheet.frames[at];
    if (!cut) throw new Error(`it has no frame ${at}`);
    const { width, height } = sheet.frame;
    const data = new Uint8Array(width * height * channels);
    for (let row = 0; row < cut.height; row += 1) {
      const from = ((cut.y + row) * sheet.width + cut.x) * channels;
      data.set(pixels.subarray(from, from + cut.width * channels), ((cut.top + row) * width + cut.left) * channels);
    }
    return { width, height, channels, sample: 'u8', data };
  }

  async close(): Promise<void> {
    // Nothing is held open.
  }
}

/** What the JSON of a sprite sheet says. @throws Error where it is none, or where its boxes are not on its picture */
export function parseSheet(text: string): Sheet {
  const { data: sheet, error } = sheetSchema.safeParse(JSON.parse(text));
  if (!sheet) throw new Error(`it is no sprite sheet: ${error.issues[0]!.path.join('.')} ${error.issues[0]!.message}`);
  const { width, height, frame } = sheet;
  const lies = sheet.frames.findIndex(
    (one) =>
      one.x + one.width > width ||
      one.y + one.height > height ||
      one.left + one.width > frame.width ||
      one.top + one.height > frame.height,
  );
  if (lies >= 0) throw new Error(`the box of frame ${lies} is not on its picture`);
  return sheet;
}
