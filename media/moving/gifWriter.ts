import { open, unlink, type FileHandle } from 'node:fs/promises';
import { bayer, delaysOf, makeIndexer, type Image, type VideoSpec } from '@shale/core';
import type { VideoSettings } from '../video/videoWriter.ts';
import { gifEnd, gifHead, gifPicture, paletteBits, type GifPicture, type Palette } from './gifFile.ts';
import { choosePalette, Colours } from './palette.ts';

/**
 * A picture as RGBA of 8 bits whose pixels are clear or not: half-clear ones are blended onto a colour where one is said, and cut at a
 * threshold or by a pattern. What is clear has no colour.
 */
export function cutAlpha(
  { width, channels, data }: Image,
  { alphaEdge, alphaFrom, edgeColour }: Pick<VideoSpec, 'alphaEdge' | 'alphaFrom' | 'edgeColour'>,
): Uint8Array {
  const count = data.length / channels;
  const rgba = new Uint8Array(count * 4);
  const isOutline = edgeColour === 'outline';
  const said =
    edgeColour === null || isOutline ? undefined : [1, 3, 5].map((at) => parseInt(edgeColour.slice(at, at + 2), 16));
  for (let pixel = 0, from = 0, to = 0; pixel < count; pixel += 1, from += channels, to += 4) {
    const alpha = channels === 4 ? data[from + 3]! : 255;
    const least =
      alphaEdge === 'dithered' && alpha > 0 && alpha < 255
        ? ((bayer[((Math.floor(pixel / width) & 7) << 3) | ((pixel % width) & 7)]! + 0.5) * 255) / 64
        : alphaFrom;
    if (alpha < least) continue;
    const edge = alpha === 255 ? undefined : isOutline ? outlineAt(data, width, pixel) : said;
    for (let channel = 0; channel < 3; channel += 1) {
      const value = data[from + channel]!;
      rgba[to + channel] = edge ? Math.round((value * alpha + edge[channel]! * (255 - alpha)) / 255) : value;
    }
    rgba[to + 3] = 255;
  }
  return rgba;
}

/** How far a picture's own outline is looked for around a half-clear pixel. */
const reach = 2;

/** The mean colour of the opaque pixels near one, of RGBA; undefined where there are none. */
function outlineAt(data: Image['data'], width: number, pixel: number): number[] | undefined {
  const height = data.length / 4 / width;
  const [x, y] = [pixel % width, Math.floor(pixel / width)];
  const sums = [0, 0, 0];
  let count = 0;
  for (let row = Math.max(0, y - reach); row <= Math.min(height - 1, y + reach); row += 1)
    for (let column = Math.max(0, x - reach); column <= Math.min(width - 1, x + reach); column += 1) {
      const at = (row * width + column) * 4;
      if (data[at + 3] !== 255) continue;
      for (let channel = 0; channel < 3; channel += 1) sums[channel]! += data[at + channel]!;
      count += 1;
    }
  return count === 0 ? undefined : sums.map((sum) => sum / count);
}

/** A box in pixels; nothing where it is undefined. */
interface Box {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

const around = (a: Box | undefined, b: Box | undefined): Box | undefined =>
  a && b
    ? {
        left: Math.min(a.left, b.left),
        top: Math.min(a.top, b.top),
        right: Math.max(a.right, b.right),
        bottom: Math.max(a.bottom, b.bottom),
      }
    : (a ?? b);

/** The smallest box around the pixels that are asked for. */
function boxOf(width: number, height: number, holds: (at: number) => boolean): Box | undefined {
  let box: Box | undefined;
  for (let y = 0, at = 0; y < height; y += 1) {
    for (let x = 0; x < width; x += 1, at += 1) {
      if (!holds(at)) continue;
      if (!box) box = { left: x, top: y, right: x + 1, bottom: y + 1 };
      else {
        if (x < box.left) box.left = x;
        if (x >= box.right) box.right = x + 1;
        box.bottom = y + 1;
      }
    }
  }
  return box;
}

/** A picture that is drawn once it is known what comes after it. */
interface Waiting {
  indices: Uint8Array;
  /** The index that leaves what is there. */
  clear: number | undefined;
  palette: Palette;
  isOwn: boolean;
  /** What each index shows, 0 for the clear one. */
  colours: Uint32Array;
  /** Colours of the picture as it is shown, 0 where it is clear, and of what was there before it. */
  shown: Uint32Array;
  before: Uint32Array;
  box: Box | undefined;
  delay: number;
}

/**
 * Lays pictures over one another as GIF shows them: each stores the smallest box of what changed, unchanged pixels in it as clear where
 * that is smaller. Where a pixel becomes clear again, the picture before gives its box back.
 */
class GifLayers {
  private waiting: Waiting | undefined;
  private canvas: Uint32Array;
  bytes = 0;

  constructor(
    private readonly size: { width: number; height: number },
    /** Of the palette that all share, the clear one among them; 0 where each has its own. */
    private readonly colours: number,
    private readonly tolerance: number,
    private readonly take: (bytes: Buffer) => Promise<void>,
  ) {
    this.canvas = new Uint32Array(size.width * size.height);
  }

  /** @param clear the index of clear pixels @param isOwn whether the palette is that of this picture alone */
  async add(
    indices: Uint8Array,
    palette: Palette,
    clear: number | undefined,
    isOwn: boolean,
    delay: number,
  ): Promise<void> {
    const tolerance = clear === undefined ? 0 : this.tolerance;
    const { width, height } = this.size;
    const colours = new Uint32Array(256);
    for (let at = 0; at < palette.length / 3; at += 1)
      colours[at] = (255 << 24) | (palette[at * 3]! << 16) | (palette[at * 3 + 1]! << 8) | palette[at * 3 + 2]!;
    if (clear !== undefined) colours[clear] = 0;
    // What has to become clear: the picture before gives it back.
    if (this.waiting) {
      const { canvas } = this;
      const given = boxOf(width, height, (at) => indices[at] === clear && canvas[at] !== 0);
      this.waiting.box = around(this.waiting.box, given);
      await this.write(given !== undefined);
    }
    const before = this.canvas;
    const shown = before.slice();
    const stays = (at: number): boolean => {
      const [is, was] = [colours[indices[at]!]!, before[at]!];
      if (is === was) return true;
      return tolerance > 0 && is !== 0 && was !== 0 && isNear(is, was, tolerance);
    };
    const box = boxOf(width, height, (at) => !stays(at));
    if (box)
      for (let y = box.top; y < box.bottom; y += 1)
        for (let at = y * width + box.left; at < y * width + box.right; at += 1)
          if (!stays(at)) shown[at] = colours[indices[at]!]!;
    this.waiting = { indices, clear, palette, colours, isOwn, shown, before, box, delay };
    this.canvas = shown;
  }

  /** Writes the picture that waits. @param clears whether its box becomes clear behind it */
  private async write(clears: boolean): Promise<void> {
    const { waiting } = this;
    const { width } = this.size;
    if (!waiting) return;
    const { indices, clear, palette, colours, isOwn, shown, before, delay } = waiting;
    // Nothing changed: a pixel that leaves what is there keeps the time.
    const box = waiting.box ?? { left: 0, top: 0, right: 1, bottom: 1 };
    const wide = box.right - box.left;
    const high = box.bottom - box.top;
    const as = (leaves: boolean): Buffer => {
      const some = new Uint8Array(wide * high);
      for (let y = 0, to = 0; y < high; y += 1)
        for (let x = 0; x < wide; x += 1, to += 1) {
          const at = (box.top + y) * width + box.left + x;
          // A pixel that stays by tolerance is not what its index says.
          const isAsDrawn = colours[indices[at]!] === shown[at];
          const isLeft = clear !== undefined && shown[at] === before[at] && (leaves || !isAsDrawn);
          some[to] = isLeft ? clear : indices[at]!;
        }
      const own = isOwn ? withClear(palette, clear) : undefined;
      const bits = paletteBits(own ? own.length / 3 : this.colours);
      const picture: GifPicture = {
        ...{ left: box.left, top: box.top, width: wide, height: high, indices: some, delay, clears },
        ...(clear === undefined ? {} : { clear }),
        ...(own ? { palette: own } : {}),
      };
      return gifPicture(picture, bits);
    };
    const [left, whole] = clear === undefined ? [undefined, as(false)] : [as(true), as(false)];
    const smaller = left && left.length <= whole.length ? left : whole;
    this.bytes += smaller.length;
    await this.take(smaller);
    if (clears) {
      const cleared = shown.slice();
      for (let y = box.top; y < box.bottom; y += 1) cleared.fill(0, y * width + box.left, y * width + box.right);
      this.canvas = cleared;
    }
    this.waiting = undefined;
  }

  async finish(): Promise<void> {
    await this.write(false);
  }
}

/** A palette with a place for the clear index behind its colours. */
const withClear = (palette: Palette, clear: number | undefined): Palette =>
  clear === undefined ? palette : Uint8Array.from([...palette, 0, 0, 0]);

function isNear(a: number, b: number, tolerance: number): boolean {
  for (const shift of [16, 8, 0]) if (Math.abs(((a >>> shift) & 255) - ((b >>> shift) & 255)) > tolerance) return false;
  return true;
}

/** Writes a GIF, its pictures in order. Where all share a palette they wait on the disk until it is chosen. */
export class GifWriter {
  private readonly gathered = new Colours();
  private count = 0;
  private layers: GifLayers | undefined;

  private constructor(
    private readonly settings: VideoSettings,
    private readonly file: FileHandle,
    /** Pictures that wait: a file without a name, so that nothing is left of it. */
    private readonly spool: FileHandle | undefined,
  ) {}

  /** @param path a path that does not exist */
  static async open(path: string, settings: VideoSettings): Promise<GifWriter> {
    const file = await open(path, 'wx');
    if (settings.video.palette === 'each') return new GifWriter(settings, file, undefined);
    try {
      const spool = await open(`${path}.wait`, 'wx+');
      await unlink(`${path}.wait`);
      return new GifWriter(settings, file, spool);
    } catch (error) {
      await file.close();
      throw error;
    }
  }

  get bytes(): number {
    return this.layers?.bytes ?? 0;
  }

  /** How many colours beside the clear one there may be, and whether there is one: also where nothing is clear, for what stays as it was. */
  private get room(): { colours: number; hasClear: boolean } {
    const { video, hasAlpha } = this.settings;
    const hasClear = hasAlpha || video.colours > 4;
    return { colours: video.colours - (hasClear ? 1 : 0), hasClear };
  }

  async add(image: Image): Promise<void> {
    const { video } = this.settings;
    const rgba = cutAlpha(image, video);
    if (this.spool) {
      this.gathered.add(rgba);
      await this.spool.appendFile(rgba);
    } else {
      const own = new Colours();
      own.add(rgba);
      const { colours, hasClear } = this.room;
      const palette = await choosePalette(own, colours, video.quantiser);
      if (!this.layers) await this.begin(undefined);
      const clear = hasClear ? palette.length / 3 : undefined;
      const indices = this.indexer(palette, clear, own.few(colours) !== undefined)(rgba, image.width);
      await this.layers!.add(indices, palette, clear, true, this.delay(this.count));
    }
    this.count += 1;
  }

  /** Hundredths for which a picture stands. */
  private delay(at: number): number {
    this.delays = this.delays.length > at ? this.delays : delaysOf(this.settings.rate, Math.max(256, at * 2), 100);
    return this.delays[at]!;
  }
  private delays: number[] = [];

  private async begin(palette: Palette | undefined): Promise<void> {
    const { width, height, video } = this.settings;
    await this.file.appendFile(gifHead(width, height, palette, video.plays));
    const colours = (palette?.length ?? 0) / 3;
    this.layers = new GifLayers({ width, height }, colours, video.tolerance, (bytes) => this.file.appendFile(bytes));
  }

  async finish(): Promise<void> {
    if (this.spool) await this.drawAll(this.spool);
    await this.layers?.finish();
    await this.file.appendFile(gifEnd);
  }

  private async drawAll(spool: FileHandle): Promise<void> {
    const { width, height, video } = this.settings;
    const { colours, hasClear } = this.room;
    const palette = await choosePalette(this.gathered, colours, video.quantiser);
    const clear = hasClear ? palette.length / 3 : undefined;
    await this.begin(withClear(palette, clear));
    const indicesOf = this.indexer(palette, clear, this.gathered.few(colours) !== undefined);
    const rgba = new Uint8Array(width * height * 4);
    for (let at = 0; at < this.count; at += 1) {
      const { bytesRead } = await spool.read(rgba, 0, rgba.length, at * rgba.length);
      if (bytesRead !== rgba.length) throw new Error('pictures that waited on the disk are gone');
      await this.layers!.add(indicesOf(rgba, width), palette, clear, false, this.delay(at));
    }
  }

  /** @param isExact whether the palette has every colour that there is */
  private indexer(palette: Palette, clear: number | undefined, isExact: boolean): ReturnType<typeof makeIndexer> {
    const { dither, ditherAmount } = this.settings.video;
    return makeIndexer({ palette, clear, dither: isExact ? 'none' : dither, amount: ditherAmount / 100 });
  }

  async close(): Promise<void> {
    await this.spool?.close();
    await this.file.close();
  }
}
